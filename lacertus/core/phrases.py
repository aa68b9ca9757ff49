"""What is told in words of ours, in English, and how another language is put in its place."""

from __future__ import annotations

from collections.abc import Callable

Say = Callable[[str], str]
"""Gives a phrase in another language."""


def in_english(phrase: str) -> str:
    """A phrase as it stands here."""
    return str(phrase)
