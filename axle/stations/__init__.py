"""What the readings of each station come to."""
