"""Three renderers draw the same shapes; the browser's is written in another language, so its numbers are held to the core's."""

from __future__ import annotations

import pytest

from lacertus.core.corrections import shapes
from tests.place import ROOT

BROWSER = (ROOT / "ui" / "src" / "lib" / "parts" / "Shapes.svelte").read_text()


@pytest.mark.parametrize(
    "written",
    [
        f"const INK = '{shapes.INK}'",
        "const COLOURS = { " + ", ".join(f"{role}: '{colour}'" for role, colour in shapes.COLOURS.items()) + " }",
        f"const LINE = {shapes.LINE:g}",
        f"const OUTLINE = {shapes.OUTLINE:g}",
        f"const HEAD = {shapes.HEAD:g}",
        f"const unit = $derived(height / {1 / shapes.UNIT:.0f})",
        f"`${{{shapes.DASH:g} * unit}} ${{{shapes.DASH_GAP:g} * unit}}`",
        f"font-size={{{shapes.LETTERS:g} * unit}}",
    ],
)
def test_the_browser_draws_by_the_same_numbers(written: str) -> None:
    assert written in BROWSER
