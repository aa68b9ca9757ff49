"""Many at once: academies in one database, coaches at one server."""
