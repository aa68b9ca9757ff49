"""Corrections → what the API gives."""

from __future__ import annotations

from lacertus.web.corrections import schemas as cor


def correction_out(correction: object, fault: str) -> cor.CorrectionOut:
    """A kept correction, with the fault of its checkpoint."""
    own = {name: getattr(correction, name) for name in cor.CorrectionOut.model_fields if name != "fault"}
    return cor.CorrectionOut.model_validate(own | {"fault": fault})
