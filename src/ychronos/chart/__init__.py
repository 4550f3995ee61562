"""What a chart says: the song folded into rows of bars, and the words around it. No Qt, no files."""
