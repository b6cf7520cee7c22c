"""Words of a drawing moved apart: where they go, what keeps its place, what may be left out."""

import re

from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.drawing.labels import settled, width
from evrant.drawing.svg import text

PLACE = re.compile(r'x="([-\d.]+)" y="([-\d.]+)"')


def places(markup: str) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in PLACE.findall(markup)]


def test_what_is_free_stays_where_it_is() -> None:
    drawn = text(10, 20, "key", "note light-name") + text(10, 60, "fill", "note light-name") + "<path d='M0 0'/>"
    assert settled(drawn) == drawn


def test_the_lesser_moves_to_the_nearest_free_place() -> None:
    drawn = text(100, 50, "1.20 m", "note dimension-label") + text(100, 52, "bookshelf", "note")
    (first, second) = places(settled(drawn))
    assert first == (100, 50) and second != (100, 52)
    assert abs(second[0] - 100) <= 62 and abs(second[1] - 52) <= 62


def test_a_walls_name_slides_along_its_wall() -> None:
    turned = text(50, 80, "window wall", "wall-name", text_anchor="middle", transform="rotate(90 50 80)")
    found = settled(text(50, 80, "1.46 m", "note dimension-label", text_anchor="middle") + turned)
    (_, (x, y)) = places(found)
    assert x == 50 and y != 80 and f"rotate(90 50 {y:g}" in found


def test_a_contours_number_is_left_out_rather_than_laid_over() -> None:
    crowd = "".join(text(x, y, "−28 cm", "conflict-label") for x in range(-60, 200, 40) for y in range(-60, 180, 12))
    found = settled(crowd + text(60, 50, "−2", "iso-label"))
    assert "−2<" not in found and found.count("<text") == crowd.count("<text")


def test_nothing_leaves_the_sheet() -> None:
    drawn = text(395, 50, "chimney wall", "wall-name") + text(-20, 2, "N", "north-letter")
    for x, y in places(settled(drawn, (0.0, 0.0, 400.0, 100.0))):
        assert 0 <= x <= 400 - width("N") * 11 and 8 <= y <= 100


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(
            st.integers(0, 600),
            st.integers(0, 400),
            st.sampled_from(["key", "1.20 m", "window wall", "−2", "ceiling 2.20 m"]),
            st.sampled_from(["note", "note light-name", "wall-name", "conflict-label", "corner"]),
        ),
        max_size=14,
    )
)
def test_few_labels_never_overlap(items: list[tuple[int, int, str, str]]) -> None:
    """Boxes worked out here from the widths alone."""
    found = settled("".join(text(x, y, words, kind) for x, y, words, kind in items))
    sizes = {"wall-name": 11.5, "corner": 11.0}
    boxes = []
    for (x, y), (_, _, words, kind) in zip(places(found), items, strict=True):
        size = sizes.get(kind, 12.5)
        boxes.append((x, y - 0.74 * size, x + width(words) * size, y + 0.22 * size))
    for i, a in enumerate(boxes):
        for b in boxes[i + 1 :]:
            assert min(a[2], b[2]) - max(a[0], b[0]) <= 0.6 or min(a[3], b[3]) - max(a[1], b[1]) <= 0.6
