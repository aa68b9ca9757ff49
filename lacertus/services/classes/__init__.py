"""Classes: the week, what is taught, the plan of a class, who trains with whom, the floor, rounds, and calendars."""
