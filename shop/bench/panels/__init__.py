"""What each station shows, gathered from the axle."""
