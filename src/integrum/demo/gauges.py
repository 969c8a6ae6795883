"""Write the readings of gauges at the lakes: the same things, written by five observers in five ways."""

from __future__ import annotations

import csv
import random
from collections.abc import Callable, Sequence
from datetime import datetime, timedelta
from pathlib import Path

_READINGS = 60
_SHORES = ("reed", "gravel", "open water")


class Reading:
    """One visit to a gauge."""

    def __init__(self, number: int, chance: random.Random) -> None:
        self.moment = datetime(2024, 4, 3, 7, 5) + timedelta(days=3 * number, minutes=chance.randrange(600))
        self.level = 1.9 + 0.5 * chance.random()
        self.outflow = 1150 + 400 * chance.random()
        self.ice = chance.random() < 0.15
        self.shore = chance.choice(_SHORES)
        self.broken = chance.random() < 0.06


def write_gauges(folder: Path, lakes: Sequence[str], chance: random.Random) -> None:
    """Write a file for each lake."""
    ways: Sequence[Callable[[Reading], list[str]]] = (_plain, _comma, _named, _whole_centimetres, _coded)
    for number, (lake, way) in enumerate(zip(lakes, ways, strict=True)):
        header = ["gauge", "day", "clock", "level", "outflow (L/s)", "ice", "shore"]
        header[3] = {1: "level (cm)", 3: "level"}.get(number, "level (m)")
        rows = [[f"{7 + 4 * number:03}", *way(Reading(each, chance))] for each in range(_READINGS)]
        if number == 4:  # an observer with another pen
            rows[9][6], rows[30][6] = "Reed", "open wather"
        folder.mkdir(parents=True, exist_ok=True)
        name = lake.lower().replace(" ", "-")
        with open(folder / f"gauge_{name}.csv", "w", encoding="utf-8", newline="") as file:
            csv.writer(file, lineterminator="\n", delimiter=";" if way is _comma else ",").writerows(
                [header, *rows]
            )


def _plain(one: Reading) -> list[str]:
    return [
        f"{one.moment:%Y-%m-%d}",
        f"{one.moment:%H:%M}",
        "n/a" if one.broken else f"{one.level:.2f}",
        f"{one.outflow:.1f}",
        "yes" if one.ice else "no",
        one.shore,
    ]


def _comma(one: Reading) -> list[str]:
    return [
        f"{one.moment:%d.%m.%Y}",
        f"{one.moment:%H:%M}",
        "-" if one.broken else f"{100 * one.level:.1f}".replace(".", ","),
        f"{one.outflow:,.1f}".replace(",", " ").replace(".", ","),
        "ja" if one.ice else "nein",
        one.shore,
    ]


def _named(one: Reading) -> list[str]:
    return [
        f"{one.moment.day} {one.moment:%B %Y}",
        f"{one.moment:%I:%M %p}",
        "-999" if one.broken else f"{one.level:.2f}",
        f"{one.outflow:.1f} L/s",
        "Y" if one.ice else "N",
        one.shore,
    ]


def _whole_centimetres(one: Reading) -> list[str]:
    """The unit is not in the header, and it is another one."""
    return [
        f"{one.moment:%d/%m/%y}",
        f"{one.moment.hour}:{one.moment:%M}",
        f"{100 * one.level:.0f}",
        f"{one.outflow:.1f}",
        "true" if one.ice else "false",
        one.shore,
    ]


def _coded(one: Reading) -> list[str]:
    return [
        f"{one.moment:%Y/%m/%d}",
        f"{one.moment:%H:%M:%S}",
        "-999" if one.broken else f"{one.level:.2f}",
        "<1200" if one.outflow < 1200 else f"{one.outflow:.1f}",
        "yes" if one.ice else "no",
        one.shore,
    ]
