"""Readings against what was claimed and what is forecast now, in the order they were taken."""

from html import escape

from evrant.core.log.calibrate import Told

WIDTH, ROW, TOP, LEFT = 760.0, 26.0, 26.0, 300.0


def log_chart(told: list[Told], names: dict[str, str]) -> str:
    """A line a reading: what it says against the claim [stops], its ±, and the forecast with what is known now."""
    shown = [one for one in told if not one.missing and one.bound == 0]
    if not shown:
        return ""
    most = max(1.0, *(abs(one.off) + one.pm for one in shown), *(one.before_pm for one in shown))
    middle, scale = (WIDTH + LEFT) / 2, (WIDTH - LEFT) / 2 / (most * 1.1)
    high = TOP + ROW * len(shown) + 18

    def x(stops: float) -> float:
        return middle + stops * scale

    parts = [
        f'<svg class="log-chart" viewBox="0 0 {WIDTH:.0f} {high:.0f}" role="img" aria-label="Readings against claims">',
        f'<text class="soft" x="{x(0):.1f}" y="14" text-anchor="middle">as claimed</text>',
        f'<line class="zero" x1="{x(0):.1f}" y1="{TOP - 6}" x2="{x(0):.1f}" y2="{high - 16:.0f}"/>',
    ]
    for step in range(-int(most), int(most) + 1):
        words = "0" if step == 0 else f"{step:+d}".replace("-", "−")
        parts.append(f'<text class="soft" x="{x(step):.1f}" y="{high - 3:.0f}" text-anchor="middle">{words}</text>')
    for number, one in enumerate(shown):
        y = TOP + ROW * (number + 0.5)
        words = names.get(one.reading.id, one.reading.id)
        odd = "" if one.counts else " odd"
        parts += [
            f'<text x="{LEFT - 12:.0f}" y="{y + 4:.1f}" text-anchor="end">{escape(words)}</text>',
            f'<rect class="claim" x="{x(-one.before_pm):.1f}" y="{y - 8:.1f}" '
            f'width="{2 * one.before_pm * scale:.1f}" height="16"/>',
            f'<rect class="now" x="{x(one.now - one.now_pm):.1f}" y="{y - 5:.1f}" '
            f'width="{2 * one.now_pm * scale:.1f}" height="10"/>',
            f'<line class="said{odd}" x1="{x(one.off - one.pm):.1f}" y1="{y:.1f}" x2="{x(one.off + one.pm):.1f}" '
            f'y2="{y:.1f}"/>',
            f'<circle class="said{odd}" cx="{x(one.off):.1f}" cy="{y:.1f}" r="4"/>',
        ]
    return "".join([*parts, "</svg>"])
