"""What goes out: sheets, captions, tables and files in open formats."""
