"""Windows: packaged apps."""
