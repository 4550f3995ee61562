"""The key view: what speaks for which key."""
