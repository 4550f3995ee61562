"""Lines: the bass as it is played."""
