"""The brief: the file `rivelt.toml`, everything the person decides."""
