"""Tests of planning: hand-worked cases, and a slow, simple second implementation."""
