"""What every command prints under `--json`, and every result gives as `to_dict()`: typed, versioned, with JSON Schemas made from the types."""
