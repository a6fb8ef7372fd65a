"""The command line: a thin shell round `rivelt.opening`, one module for each command."""
