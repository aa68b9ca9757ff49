"""All that touches pixels and media files."""
