"""Lacertus: technique review for coaches of throws, kicks, sweeps, submissions and falls."""
