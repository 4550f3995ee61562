"""Keys over time."""
