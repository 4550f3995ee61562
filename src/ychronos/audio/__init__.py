"""Sound in: decoding, resampling, waveform summaries. No devices here."""
