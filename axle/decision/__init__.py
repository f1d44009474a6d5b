"""What to do next: candidates, their probability, the reading that tells most, and the choice."""
