"""What the user can do, one module a matter; each takes the session, never a window."""
