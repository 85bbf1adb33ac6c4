"""What travels between server and interface, a room for each kind of thing."""
