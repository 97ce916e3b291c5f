"""One family of errors for everything a user can get wrong.

Each says what is wrong, where (file, line or field) and what to do about it; the server turns them
into its error answer and the launcher prints them, so the words must stand on their own.
"""

from __future__ import annotations


class InputError(ValueError):
    """Something handed in cannot be used.

    Parameters: `what` is wrong, `where` (file, line or field, may be empty), the `remedy`.
    """

    def __init__(self, what: str, where: str = "", remedy: str = "") -> None:
        self.what = what
        self.where = where
        self.remedy = remedy
        parts = [f"{where}: {what}" if where else what]
        if remedy:
            parts.append(remedy)
        super().__init__(" ".join(part if part.endswith((".", "!")) else part + "." for part in parts))


class NotFoundError(InputError):
    """A named thing does not exist; the remedy lists what does."""


class StoppedError(Exception):
    """Work was left midway, because something newer is wanted; nothing came of it."""
