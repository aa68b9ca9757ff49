"""Accounts, signing in, students and notes."""
