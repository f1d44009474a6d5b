"""The axle as its records tell it."""
