"""The sheet: the folded recording, with what stands beside and below it."""
