"""The student's own side: consents, links to their page, what comes in from it, and how long films are kept."""
