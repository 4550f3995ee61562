"""The hand: shapes, capo and tuning."""
