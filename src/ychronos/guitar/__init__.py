"""The guitar: tunings, capo, and what a chord is called under the hand."""
