"""What a change does to the launch screens: one revision of a project held against another, or against the working tree."""
