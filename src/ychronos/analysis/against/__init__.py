"""Charts of other people against the record."""
