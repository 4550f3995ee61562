"""What the record says about the hands that played it."""
