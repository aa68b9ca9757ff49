"""The student's own side: links to their page, what the page shows and sends, and how long films are kept."""
