"""The shipped techniques and cautions, and the reader of technique files."""

from lacertus.library.loader import check_file, check_text, load_technique, parse_technique, retired_ids, shipped, shipped_technique

__all__ = ["check_file", "check_text", "load_technique", "parse_technique", "retired_ids", "shipped", "shipped_technique"]
