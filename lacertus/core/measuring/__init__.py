"""Points, times and bodies become values with uncertainty."""
