"""The proof: pictures of scenes, side by side."""
