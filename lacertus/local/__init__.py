"""Everything on one machine: PostgreSQL in a folder, the demo academy, server and worker together."""
