"""A recording of a real launch read: what was shown when, and whether it is what the proof says."""
