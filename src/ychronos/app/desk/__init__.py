"""The listening desk, and what sounds besides the record."""
