"""The ground: the facts of the record with their evidence."""
