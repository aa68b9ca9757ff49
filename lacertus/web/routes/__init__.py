"""Routes, one module a resource."""
