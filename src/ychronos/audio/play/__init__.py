"""Playing: the engine, its outputs, and what changes the sound on the way."""
