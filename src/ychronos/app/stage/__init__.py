"""The chart for playing along, large enough to be read from the other end of the room."""
