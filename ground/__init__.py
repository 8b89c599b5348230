"""What the one command stands on: setting up, the database server, the processes. Standard library only."""
