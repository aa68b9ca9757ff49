"""Tests of the student’s own side."""
