"""What `./start` and `./test` are made of. Standard library only: it runs before anything is installed."""
