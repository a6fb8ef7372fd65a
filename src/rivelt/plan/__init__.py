"""The plan: all that would be done to a site, as plain frozen data. What to do, never how."""
