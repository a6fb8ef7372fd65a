"""What the native files say."""
