"""Pictures of several films beside one another."""
