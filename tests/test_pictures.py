"""Pictures in the docs show what the code prints: each carries its text, and that is compared."""

import pictures


def test_pictures_show_what_the_code_prints(tmp_path) -> None:
    """After a change of what is printed: make pictures."""
    made = pictures.texts(tmp_path)
    assert sorted(made) == sorted(path.stem for path in pictures.PLACE.glob("*.png"))
    for name, text in made.items():
        assert pictures.text_in((pictures.PLACE / f"{name}.png").read_bytes()) == text, (
            f"{name}.png: make pictures"
        )


def test_a_picture_carries_its_text() -> None:
    png = (pictures.PLACE / "trace.png").read_bytes()
    assert "22.46" in pictures.text_in(png)
    assert pictures.text_in(pictures.with_text(png, "22,47 °C")) == "22,47 °C"
    assert pictures.text_in(png[:33]) == ""
