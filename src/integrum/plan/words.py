"""Words that several parts of a plan share."""

from __future__ import annotations

BAD_VALUES = ("blank", "set-row-aside", "set-source-aside")
