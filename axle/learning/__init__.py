"""What finished jobs show of the shop they were done in."""
