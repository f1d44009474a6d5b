"""What is done of the job, what is open and what holds it."""
