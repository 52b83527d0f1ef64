"""What results are made with. Needs no kernel, so that the web server can ask whether a result is still good."""

import hashlib
import json
from typing import Any

KERNEL_VERSION = "ocp-8.0.1.1.0/23"  # the kernel / our part: another number when a shape or mesh comes out otherwise
HAS = "has:"  # begins what is asked to know whether such a file is there
FILE = "file:"  # begins the keys of files that came with a part


def content_hash(*parts: Any) -> str:
    """A key for what is told by ``parts`` (plain data): the same for the same content."""
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.sha256(text.encode()).hexdigest()
