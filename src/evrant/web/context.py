"""What a page is made from: the studio's newest revision, its ledger, and who asks."""

import secrets
from collections import Counter
from collections.abc import Hashable
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined
from jinja2.runtime import Macro
from markupsafe import Markup
from starlette.requests import Request
from starlette.responses import HTMLResponse

from evrant.core.base.faults import at_work_on
from evrant.core.base.margins import Verdict
from evrant.core.base.memo import Memo
from evrant.core.base.quantity import ORIGINS
from evrant.core.base.tables.money import amount
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.judge.next_step import NextStep, next_step
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.terms import first_told
from evrant.core.studio.words import Say, kind_word
from evrant.store.jobs import Jobs
from evrant.store.remarks import Remarks
from evrant.store.repository import Repository
from evrant.store.revisions import Revision, split
from evrant.web.access import Who
from evrant.web.lines import column
from evrant.web.registry import specs
from evrant.web.timing import span

TEMPLATES = Environment(
    loader=FileSystemLoader(Path(__file__).parent),
    autoescape=True,
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
    auto_reload=False,
)
TEMPLATES.filters["kind_word"] = kind_word
TEMPLATES.filters["amount"] = amount
TEMPLATES.globals["origins"] = ORIGINS
_WRITTEN: Memo[Markup] = Memo(24_000_000, lambda text: 400 + 2 * len(text))


def written(macro: Macro, *told: Hashable) -> Markup:
    """What a macro writes, once for the same values: they must be all that it reads."""
    return _WRITTEN.get_by((macro.name, *told), lambda: Markup(macro(*told)))


TEMPLATES.globals["written"] = written


def repository(request: Request) -> Repository:
    found: Repository = request.state.store
    return found


def own_repository(request: Request) -> Repository:
    """The studios of who asks, whoever owns the one asked for."""
    found: Repository = request.state.mine
    return found


def jobs_of(request: Request) -> Jobs:
    found: Jobs = request.state.jobs
    return found


def who(request: Request) -> Who:
    found: Who = request.state.who
    return found


@dataclass
class Page:
    """One studio as one page shows it."""

    request: Request
    revision: Revision
    name: str
    undo_redo: tuple[bool, bool] = (False, False)
    set_id: str | None = None
    part: str | None = None
    extra: dict[str, Any] = field(default_factory=dict)

    @property
    def studio(self) -> Studio:
        return self.revision.studio

    @cached_property
    def ledger(self) -> Ledger:
        with span(self.request, "ledger"), at_work_on(self.at_work):
            return ledger_of(self.studio)

    @property
    def at_work(self) -> str:
        """What is worked on, for the log."""
        return f"studio {self.revision.studio_id}, revision {self.revision.number}"

    @property
    def only(self) -> str | None:
        """The page's name when its column is about a part of the ledger, or None for all."""
        return self.name if self.name in specs() and specs()[self.name].ledger is not None else None

    @property
    def column_title(self) -> str:
        """What the column is about."""
        plan = by_id(self.studio.sets, self.set_id)
        return f"{self.name.capitalize()} of {plan.name}" if plan and self.only else ""

    @cached_property
    def say(self) -> Say:
        return Say.of(self.studio.brief)

    @cached_property
    def next(self) -> NextStep:
        return next_step(self.studio, self.ledger)

    @cached_property
    def nonce(self) -> str:
        """Marks one rendering, so that what loads after it loads again after the next."""
        return secrets.token_hex(4)

    @property
    def base(self) -> str:
        return f"/studios/{self.revision.studio_id}"

    @property
    def _word_of_set(self) -> str:
        """First word of the paths of sets beside this page: the same page of another set, else the set's desk."""
        spec = specs().get(self.name)
        return spec.of_set if spec and spec.of_set else specs()["set"].of_set

    @property
    def path(self) -> str:
        if self.set_id:
            return f"{self._word_of_set}/{self.set_id}"
        return f"{self.name}/{self.part}" if self.part else self.name

    @property
    def plan(self) -> str:
        """Letter of the plan shown."""
        return split(self.revision.studio_id)[1].upper()

    @cached_property
    def remarks(self) -> int:
        """How many remarks on this plan are open."""
        return Remarks(self.request.app.state.engine).open(self.revision.studio_id)

    def tabs(self) -> list[dict[str, Any]]:
        """Sets along the top, each with its Short lines; shots without a set come after."""
        found = []
        for shot in self.studio.shots:
            plans = [plan for plan in self.studio.sets if plan.shot == shot.id]
            for plan in plans:
                shorts = sum(m.verdict is Verdict.SHORT for m in self.ledger.of_set(plan.id))
                name = shot.name if len(plans) == 1 else plan.name
                href = f"{self.base}/{self._word_of_set}/{plan.id}"
                here = plan.id == self.set_id
                found.append({"id": plan.id, "name": name, "short": shorts, "here": here, "href": href})
        return found

    def steps(self) -> list[dict[str, Any]]:
        """Steps down the left, each with its Short lines, and which one this page belongs to."""
        shorts: Counter[str] = Counter({str(step): count for step, count in self.ledger.shorts().items()})
        first = self.set_id or (self.studio.sets[0].id if self.studio.sets else None)
        own = specs().get(self.name)
        here = own.name if own and own.word else own.under if own else ""
        found = []
        for spec in specs().values():
            if not spec.word:
                continue
            href = f"{self.base}/{spec.name}"
            if spec.of_set:
                href = f"{self.base}/{spec.of_set}/{first}" if first else f"{self.base}/shots"
            found.append({"href": href, "word": spec.word, "short": shorts[spec.name], "here": spec.name == here})
        return found


def render(
    template: str, page: Page | None = None, status: int = 200, headers: dict[str, str] | None = None, **values: Any
) -> HTMLResponse:
    """A page or fragment from a template."""
    if page is not None:
        values |= {
            "page": page,
            "studio": page.studio,
            "say": page.say,
            "base": page.base,
            "column": column(page.studio, page.ledger, page.set_id, page.only),
        } | page.extra
        values.setdefault("token", page.request.state.token)
        values |= {"who": who(page.request), "hosted": page.request.app.state.hosting.on}
        told = first_told((one.id, f"{one.margin.sentence} {one.margin.reason}") for one in values["column"].open)
        values["terms_at"] = {key: tuple(terms.items()) for key, terms in told.items()}
        words = (one for terms in told.values() for one in terms.items())
        values["terms_here"] = dict(sorted(words, key=lambda one: one[0].lower()))
    return HTMLResponse(TEMPLATES.get_template(template).render(**values), status, headers)
