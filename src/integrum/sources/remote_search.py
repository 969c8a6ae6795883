"""From an address in the plan to the sources that are there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from integrum.problems.problem import SourceFault
from integrum.remote.access import Access
from integrum.remote.addresses import common_root, has_pattern, name_of, root_of
from integrum.remote.files import RemoteState, mark_of
from integrum.remote.listing import ListedFile, files_below, kind_of, own_work, states_of
from integrum.sources.patterns import matches
from integrum.sources.source import Remote, Source
from integrum.sources.suffixes import ARCHIVE, is_data, never_data, packing_of

# the name of a file that is passed over, and why; or of one that Integrum wrote
Note = tuple[str, str, str]


class RemoteSearch:
    """Searches the remote places of a plan.

    Parameters
    ----------
    addresses
        All of them, so that the names of sources can be relative to what they have in common.
    alone
        Whether the plan has no other places; else the names of remote sources are their addresses.
    """

    def __init__(self, addresses: Sequence[str], alone: bool) -> None:
        folders = [root_of(each)[0] if has_pattern(each) else each for each in addresses]
        self.base = common_root([f"{each.rstrip('/')}/" for each in folders]) if alone else ""
        if self.base and not any(has_pattern(each) or each.endswith("/") for each in addresses):
            # files that are named one by one: the folder that they are in
            files = common_root(list(addresses))
            self.base = files if len(set(addresses)) > 1 or self.base in addresses else self.base
        self.notes: list[Note] = []

    def look(self, address: str, access: Access, group: int) -> list[Source]:
        """The sources at the address of a folder, a pattern or a file, for the group of that number.

        Raises SourceFault when the place does not answer.
        """
        if has_pattern(address):
            folder, pattern = root_of(address)
            listed = [
                one
                for one in self._below(folder, access)
                if matches(one[0][len(folder) :].lstrip("/"), pattern)
            ]
            return list(self._sources(listed, access, group, named=True))
        kind = kind_of(address, access)
        if kind == "folder":
            return list(self._sources(self._below(address.rstrip("/"), access), access, group, named=False))
        if kind == "file":
            return list(self._sources(states_of([address], access), access, group, named=True))
        return []

    def _below(self, folder: str, access: Access) -> list[ListedFile]:
        """The files below a remote folder that Integrum did not write."""
        listed = files_below(folder, access)
        own = own_work(listed, access)
        kept = []
        for one in listed:
            address = one[0]
            if address in own:
                self.notes.append(("own-work", self.name(address), "skipped: written by Integrum"))
            elif not any(each.endswith("/") and address.startswith(each) for each in own):
                kept.append(one)
        return kept

    def name(self, address: str) -> str:
        """The name of the source at an address."""
        return name_of(address, self.base)

    def _sources(
        self, listed: Sequence[ListedFile], access: Access, group: int, named: bool
    ) -> Iterator[Source]:
        for address, state in listed:
            name = self.name(address)
            last = address.rsplit("/", 1)[-1]
            never = never_data(last)
            if never and not (named and len(listed) == 1):
                self.notes.append(("passed-over", name, f"skipped: {never}"))
            elif not named and not is_data(last) and packing_of(last) != ARCHIVE:
                self.notes.append(
                    ("passed-over", name, "skipped: not a delimited file or workbook, by its suffix")
                )
            else:
                if not isinstance(state, SourceFault) and state.size < 0:
                    said = "its place does not say how large it is; if the connection breaks off, rows may be missing"
                    self.notes.append(("size-not-told", name, said))
                yield _source(address, name, access, group, state)


def _source(address: str, name: str, access: Access, group: int, state: RemoteState | SourceFault) -> Source:
    if isinstance(state, SourceFault):
        return Source(
            name, address, group, 0, (0, 0), fault=state, remote=Remote(access, RemoteState(-1, 0, ""))
        )
    when = state.changed or (mark_of(state.tag) if state.tag else 0)
    size = max(state.size, 0)
    packing = packing_of(address.partition("?")[0])
    return Source(name, address, group, size, (size, when), packing, remote=Remote(access, state))
