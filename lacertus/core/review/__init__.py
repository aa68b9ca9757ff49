"""A rep judged by a technique: verdicts, proposals, tracks, a second view, blind re-marking."""
