"""A file that was opened before a process lost the right to open it."""

from __future__ import annotations

import os
from dataclasses import dataclass, field


@dataclass
class OpenedFile:
    """A file by its descriptor, read by place, so that several readers of one descriptor do not move each other.

    `name` is what people call it; nothing is opened by it.
    """

    descriptor: int
    name: str
    _at: int = field(default=0, init=False)

    @property
    def size(self) -> int:
        return os.fstat(self.descriptor).st_size

    def fresh(self) -> OpenedFile:
        """The same file, read from its beginning."""
        return OpenedFile(self.descriptor, self.name)

    def read(self, count: int = -1) -> bytes:
        wanted = self.size - self._at if count < 0 else count
        found = os.pread(self.descriptor, max(wanted, 0), self._at)
        self._at += len(found)
        return found

    def seek(self, offset: int, whence: int = os.SEEK_SET) -> int:
        base = {os.SEEK_SET: 0, os.SEEK_CUR: self._at, os.SEEK_END: self.size}[whence]
        if base + offset < 0:
            raise OSError(22, "a place before the beginning of a file")
        self._at = base + offset
        return self._at

    def tell(self) -> int:
        return self._at

    def seekable(self) -> bool:
        return True
