"""What is kept: tables, migrations and media files."""
