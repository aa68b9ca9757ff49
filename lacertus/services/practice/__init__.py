"""What to do about a fault: drills, prescriptions, what was practised, and what came of it."""
