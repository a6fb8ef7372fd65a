"""The planner: what would be done to a site."""
