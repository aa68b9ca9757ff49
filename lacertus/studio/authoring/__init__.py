"""Solving poses of two bodies on the mat, for whoever writes a move; nothing of it runs where Lacertus is used."""
