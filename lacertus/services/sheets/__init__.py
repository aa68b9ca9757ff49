"""Finishing a review, and what goes home: sheet, links, mail."""
