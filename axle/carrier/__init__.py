"""The carrier between its bearings: sides, adjusters, thin spacers, torque and heat."""
