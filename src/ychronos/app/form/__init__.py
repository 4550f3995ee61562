"""The form: the whole song and the passes of its sections."""
