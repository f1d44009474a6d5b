"""What `./start` and `./test` are made of: standard library only, since it runs first."""
