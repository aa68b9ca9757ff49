"""What is kept of a review between requests, or within one, so that it is read and judged once."""
