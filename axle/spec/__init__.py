"""What the maker allows: limits, sheets, and the files they come in."""
