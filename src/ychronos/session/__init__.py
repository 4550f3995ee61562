"""What is open, without a window: song, selection, history, deciding again, practising, commands, the journal of what is said."""
