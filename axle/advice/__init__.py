"""From what is known of an axle to where it stands and what to do next."""
