"""What screens show, from the native files alone."""
