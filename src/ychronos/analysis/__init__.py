"""Sound to decisions with confidence: arrays and earlier decisions in, decisions out; no state."""
