"""The shipped techniques and cautions, and the reader of technique files."""

from lacertus.library.loader import load_technique, parse_technique, shipped, shipped_technique

__all__ = ["load_technique", "parse_technique", "shipped", "shipped_technique"]
