"""The web: thin routes that parse, call a service and answer."""
