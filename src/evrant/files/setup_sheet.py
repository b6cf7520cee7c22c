"""The set-up sheet on paper: A4, one page where it can, with the floor drawing and its tape marks."""

import io
from collections.abc import Callable, Iterable, Sequence
from xml.sax.saxutils import escape

import numpy as np
from reportlab.lib.colors import Color
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import BaseDocTemplate, Flowable, Frame, PageTemplate, Paragraph, Spacer, Table

from evrant.core.carry.bring import Bring
from evrant.core.carry.marks import corner_name
from evrant.core.carry.sheet import Sheet, Step
from evrant.core.space.scene import Scene
from evrant.core.space.strokes import views
from evrant.core.stowage.striking import BEGINNER
from evrant.core.studio.words import Say
from evrant.files.scaled import COLOURS, WIDTHS

INK, SOFT, MARK = Color(0.12, 0.18, 0.17), Color(0.36, 0.42, 0.40), Color(0.62, 0.43, 0.10)
EDGE = 11 * mm
BODY = ParagraphStyle("body", fontName="Helvetica", fontSize=7.6, leading=9.2, textColor=INK)
SMALL = ParagraphStyle("small", parent=BODY, fontSize=6.8, leading=8.2, textColor=SOFT)
HEAD = ParagraphStyle("head", parent=BODY, fontName="Helvetica-Bold", fontSize=8.6, leading=11, spaceBefore=3)
TITLE = ParagraphStyle("title", parent=BODY, fontName="Helvetica-Bold", fontSize=13, leading=16)
RIGHT = ParagraphStyle("right", parent=BODY, alignment=TA_RIGHT)
TIGHT: list[tuple[object, ...]] = [("LEFTPADDING", (0, 0), (-1, -1), 0), ("RIGHTPADDING", (0, 0), (-1, -1), 3)]
TIGHT += [("TOPPADDING", (0, 0), (-1, -1), 0.4), ("BOTTOMPADDING", (0, 0), (-1, -1), 0.4)]
TIGHT += [("VALIGN", (0, 0), (-1, -1), "TOP")]

Place = Callable[[float, float], tuple[float, float]]


def shown(text: str) -> str:
    """Text with what the page's font has; every other character as a question mark."""
    plain = text.replace("−", "-").replace("\u2009", " ").replace("→", "to")
    return escape(plain.encode("cp1252", errors="replace").decode("cp1252"))


class FloorDrawing(Flowable):  # type: ignore[misc]
    """The plan with numbered tape marks and the two distances of each."""

    def __init__(self, scene: Scene, sheet: Sheet, width: float, height: float) -> None:
        super().__init__()
        self.scene, self.sheet, self.width, self.height = scene, sheet, width, height

    def wrap(self, *_: float) -> tuple[float, float]:
        return self.width, self.height

    def draw(self) -> None:
        canvas: Canvas = self.canv
        plan = views(self.scene)[0]
        low, high = plan.size
        scale = min(self.width / float(high[0] - low[0]), self.height / float(high[1] - low[1])) * 0.97

        def at(x: float, y: float) -> tuple[float, float]:
            return (x - float(low[0])) * scale + 2, (y - float(low[1])) * scale + 2

        for line in plan.lines:
            canvas.setStrokeColorRGB(*COLOURS[line.layer])
            canvas.setLineWidth(WIDTHS.get(line.layer, 0.3) * mm)
            path = canvas.beginPath()
            for i, (x, y) in enumerate(line.points):
                (path.lineTo if i else path.moveTo)(*at(float(x), float(y)))
            if line.closed:
                path.close()
            canvas.drawPath(path)
        self._corners(canvas, at)
        self._marks(canvas, at)

    def _corners(self, canvas: Canvas, at: Place) -> None:
        walls = self.scene.walls
        if walls is None:
            return
        canvas.setFont("Helvetica-Bold", 7)
        canvas.setFillColor(SOFT)
        middle = walls.corners.mean(axis=0)
        for i, corner in enumerate(walls.corners):
            inside = corner + (middle - corner) / max(float(np.linalg.norm(middle - corner)), 1e-9) * 0.13
            canvas.drawCentredString(*at(float(inside[0]), float(inside[1])), corner_name(i))

    def _marks(self, canvas: Canvas, at: Place) -> None:
        walls, say = self.scene.walls, Say.of(self.scene.brief)
        if walls is None:
            return
        for number, mark in enumerate(self.sheet.marks, 1):
            spot = np.array(mark.at)
            canvas.setStrokeColor(MARK)
            canvas.setFillColor(MARK)
            canvas.setLineWidth(0.4)
            canvas.setDash(1.5, 1.5)
            for one in (mark.first, mark.second):
                foot = spot - walls.inward(one.index) * one.distance
                a, b = at(*spot), at(*foot)
                canvas.line(*a, *b)
                _label(canvas, (a[0] + b[0]) / 2, (a[1] + b[1]) / 2, shown(say.length(one.distance)))
            canvas.setDash()
            x, y = at(*spot)
            canvas.setLineWidth(0.9)
            canvas.line(x - 4, y, x + 4, y)
            canvas.line(x, y - 4, x, y + 4)
            canvas.setFont("Helvetica-Bold", 7)
            canvas.drawString(x + 3, y + 3, str(number))


def _label(canvas: Canvas, x: float, y: float, words: str) -> None:
    """A length on its line, the line and all else cleared behind it."""
    wide = canvas.stringWidth(words, "Helvetica", 5.6) + 2
    canvas.setFillColorRGB(1, 1, 1)
    canvas.rect(x - wide / 2, y - 2.6, wide, 6, stroke=0, fill=1)
    canvas.setFillColor(MARK)
    canvas.setFont("Helvetica", 5.6)
    canvas.drawCentredString(x, y - 1.6, words)


def write_sheet(scene: Scene, sheet: Sheet, things: Sequence[Bring] = (), *, practised: bool = False) -> bytes:
    """The sheet as a PDF."""
    out = io.BytesIO()
    width, height = A4
    column = (width - 2 * EDGE - 6 * mm) / 2
    document = BaseDocTemplate(out, pagesize=A4, title=f"Set-up sheet: {sheet.name}", invariant=1)
    top = Frame(EDGE, EDGE, column, height - 2 * EDGE, 0, 0, 0, 0, id="left")
    other = Frame(EDGE + column + 6 * mm, EDGE, column, height - 2 * EDGE, 0, 0, 0, 0, id="right")
    document.addPageTemplates(PageTemplate("sheet", [top, other]))
    document.build(list(_story(scene, sheet, things, column, practised)))
    return out.getvalue()


def _story(scene: Scene, sheet: Sheet, things: Sequence[Bring], column: float, practised: bool) -> Iterable[Flowable]:
    yield Paragraph(shown(sheet.name), TITLE)
    long = sheet.minutes(practised)
    told = "" if practised else ", three times what those who know it take"
    yield Paragraph(f"About {long:.0f} min to the last test frame{told}.", SMALL)
    if scene.walls is not None:
        yield FloorDrawing(scene, sheet, column, 78 * mm)
    for words in sheet.missing:
        yield Paragraph(shown(words), BODY)
    yield from _marks(scene, sheet)
    yield from _pairs("Camera", sheet.camera)
    yield from _pairs("Room", sheet.room)
    for row in sheet.lights:
        yield from _pairs(row.name.capitalize(), row.settings)
    yield from _pairs("Leads", sheet.leads)
    yield from _steps("In this order", sheet.steps, practised)
    if things:
        yield Paragraph("Bring, in the order of packing", HEAD)
        for one in things:
            where = f", from {one.place}" if one.place else ""
            first = f" (first take out {', '.join(one.first)})" if one.first else ""
            count = f"{one.count} × " if one.count > 1 else ""
            yield Paragraph(shown(f"[  ] {count}{one.name}{where}{first}"), BODY)
    yield from _steps("Strike", sheet.strike, practised)
    yield Paragraph(
        "What is screwed into walls or ceilings, and everything about the mains, is for those licensed to do it; local "
        "rules come first.",
        SMALL,
    )


def _marks(scene: Scene, sheet: Sheet) -> Iterable[Flowable]:
    if not sheet.marks:
        return
    say = Say.of(scene.brief)
    yield Paragraph("Tape marks, square from the walls", HEAD)
    rows = []
    for number, mark in enumerate(sheet.marks, 1):
        far = ", ".join(f"{say.length(one.distance)} from {one.wall}" for one in (mark.first, mark.second))
        check = f"{say.length(mark.diagonal)} to corner {mark.corner}"
        rows.append([Paragraph(str(number), BODY), Paragraph(shown(f"{mark.what}: {far}; check {check}"), BODY)])
    yield Table(rows, colWidths=[5 * mm, None], style=TIGHT)


def _pairs(title: str, pairs: Sequence[tuple[str, str]]) -> Iterable[Flowable]:
    if not pairs:
        return
    yield Paragraph(shown(title), HEAD)
    rows = [[Paragraph(shown(name), SMALL), Paragraph(shown(words), BODY)] for name, words in pairs]
    yield Table(rows, colWidths=[27 * mm, None], style=TIGHT)


def _steps(title: str, steps: Sequence[Step], practised: bool) -> Iterable[Flowable]:
    if not steps:
        return
    yield Paragraph(title, HEAD)
    factor = 1 if practised else BEGINNER
    for number, step in enumerate(steps, 1):
        lines = _short(step)
        two = f" <i>{shown(f'By two: {step.two} Alone: {step.alone}')}</i>" if step.two else ""
        words = f"<b>{number}. {shown(step.title)}</b>, {step.minutes * factor:.0f} min"
        yield Paragraph(f"{words}{'. ' if lines or two else ''}{shown(' '.join(lines))}{two}", BODY)
    yield Spacer(1, 2)


def _short(step: Step) -> tuple[str, ...]:
    """What the tables above do not say already."""
    if step.stage in ("Test", "Background", "Sound"):
        return step.lines
    return tuple(line for line in step.lines if line.startswith(("One leg", "Cable", "Plug", "Clear", "A cross")))
