"""Names under which a browser keeps what it downloads."""

from __future__ import annotations

import re
import unicodedata
from urllib.parse import quote


def attachment(name: str, suffix: str) -> str:
    """Content-Disposition of a download (RFC 6266): any name, for old readers in ASCII and for all in UTF-8 (RFC 8187)."""
    shown = "".join(c for c in name if unicodedata.category(c)[0] != "C").strip()
    shown = re.sub(r'[\\/:*?"<>|]', "_", shown)[:120] or "download"
    bare = unicodedata.normalize("NFKD", shown).encode("ascii", "ignore").decode().strip() or "download"
    return f"attachment; filename=\"{bare}.{suffix}\"; filename*=UTF-8''{quote(f'{shown}.{suffix}', safe='')}"
