"""Setting sheets as PDF in a process of its own: it takes a second of the processor and leaves memory behind, so it is done
neither where requests are answered nor for ever in one process."""

from __future__ import annotations

import multiprocessing
import os
import signal
import threading
from collections.abc import Mapping
from concurrent.futures import Future, ProcessPoolExecutor
from pathlib import Path

from lacertus.core.sheets.sheet import Sheet
from lacertus.outputs import sheet as outputs

TASKS_A_PROCESS = 50
"""Each sheet leaves some 0.27 MB behind: after so many a new process takes over."""
_lock = threading.Lock()
_pool: ProcessPoolExecutor | None = None


def printed(sheet: Sheet, pictures: Mapping[tuple[str, str], bytes], font: Path | None) -> Future[bytes]:
    """The PDF of a sheet, in a while; as `outputs.sheet.pdf`."""
    global _pool
    with _lock:
        if _pool is None or getattr(_pool, "_broken", False):
            _pool = ProcessPoolExecutor(
                1, mp_context=multiprocessing.get_context("spawn"), max_tasks_per_child=TASKS_A_PROCESS, initializer=_begin
            )
        return _pool.submit(_print, sheet.model_dump_json(), dict(pictures), font)


def _begin() -> None:
    # What Ctrl-C ends is the server; this process ends with it.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    threading.Thread(target=_end_with_the_server, daemon=True).start()


def _end_with_the_server() -> None:
    # A server that is killed closes nothing, and this process waits at a pipe whose other end it holds itself: for ever.
    server = multiprocessing.parent_process()
    if server is not None:
        server.join()
        os._exit(1)


def _print(sheet: str, pictures: dict[tuple[str, str], bytes], font: Path | None) -> bytes:
    return outputs.pdf(Sheet.model_validate_json(sheet), pictures, font)
