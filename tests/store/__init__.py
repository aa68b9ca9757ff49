"""Where things are kept: media in a folder and in an object store."""
