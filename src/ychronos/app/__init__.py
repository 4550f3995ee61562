"""The window: views, audio output. Knows the core; nothing else knows it."""
