"""The command line: a thin shell round `rivelt.job`, one module for each command."""
