"""Fleets: many brands of one app from one table, each with its images, findings, pictures and changes."""
