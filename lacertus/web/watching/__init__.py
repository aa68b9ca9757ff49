"""What watches the site from outside: health, and figures for Prometheus."""
