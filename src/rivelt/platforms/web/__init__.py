"""Installed web apps."""
