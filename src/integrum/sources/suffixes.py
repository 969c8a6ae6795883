"""What a file is, by its name: data, or something that cannot be."""

from __future__ import annotations

from integrum.sources.packing import PACKED

DELIMITED = (".csv", ".tsv", ".tab")
WORKBOOKS = (".xlsx", ".xlsm", ".xls", ".xlsb", ".ods")
DATA = (*DELIMITED, *WORKBOOKS)
ARCHIVE = ".zip"
_PACKINGS = (*PACKED, ARCHIVE)

_TEMPORARY = (".tmp", ".temp", ".part", ".partial", ".crdownload", ".swp", ".bak", ".lock", ".lck")
_PICTURES = (
    ".png",
    ".jpg",
    ".jpeg",
    ".gif",
    ".tif",
    ".tiff",
    ".bmp",
    ".svg",
    ".heic",
    ".webp",
    ".ico",
    ".raw",
)
_DOCUMENTS = (
    ".pdf",
    ".doc",
    ".docx",
    ".odt",
    ".rtf",
    ".ppt",
    ".pptx",
    ".odp",
    ".md",
    ".html",
    ".htm",
    ".eml",
    ".msg",
)


def never_data(name: str) -> str:
    """Why a file cannot hold data, or ``""``.

    Examples
    --------
    >>> never_data("~$may.csv"), never_data("shore.JPG"), never_data("may.csv")
    ('lock or temporary file', 'picture', '')
    """
    lower = name.lower()
    if lower.startswith(("~$", ".~lock")) or lower.endswith(("~", "#", *_TEMPORARY)):
        return "lock or temporary file"
    if lower.startswith("."):
        return "hidden file"
    if lower.endswith(_PICTURES):
        return "picture"
    if lower.endswith(_DOCUMENTS):
        return "document"
    return ""


def packing_of(name: str) -> str:
    """How a file is packed, by its name: ``""``, or the suffix that says so.

    Examples
    --------
    >>> packing_of("may.csv.GZ"), packing_of("may.csv")
    ('.gz', '')
    """
    lower = name.lower()
    if not lower.endswith(_PACKINGS):
        return ""
    return next(suffix for suffix in _PACKINGS if lower.endswith(suffix))


def unpacked_name(name: str) -> str:
    """A name without the suffix that says how the file is packed."""
    packing = packing_of(name)
    return name[: -len(packing)] if packing and packing != ARCHIVE else name


def is_data(name: str) -> bool:
    """Whether a name in a folder is taken for a delimited text or a workbook.

    Examples
    --------
    >>> is_data("may.CSV"), is_data("may.tsv.xz"), is_data("may.xlsx"), is_data("notes.txt")
    (True, True, True, False)
    """
    return _plain(name).endswith(DATA)


def is_workbook(name: str) -> bool:
    """Whether a file is a workbook, by its name."""
    return _plain(name).endswith(WORKBOOKS)


def is_delimited(name: str) -> bool:
    """Whether a file is a delimited text, by its name."""
    return _plain(name).endswith(DELIMITED)


def _plain(name: str) -> str:
    """A name without what says that it is packed."""
    lower = name.lower()
    packing = packing_of(lower)
    return lower.removesuffix(packing) if packing != ARCHIVE else ""
