"""Fixed-size uploads: finished full-screen images for services that build the app themselves."""
