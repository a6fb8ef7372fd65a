"""Android: app modules, their resources and their manifest."""
