"""The card of what is to be bought: what the plan needs against the drawer, typed in as one counts it, and what serves instead."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from gwiazda.core.assess.choices.substitute import Substitute, Swap, substitutes, swaps, with_part
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.exchange.report import shopping_rows
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import counted, format_current, parse_number
from gwiazda.core.workshop.buying import Buy, buying, cost_words, to_keep
from gwiazda.core.workshop.drawer_csv import MOST_PRICE, Held, read_count
from gwiazda.core.workshop.workshop import Workshop
from gwiazda.desktop.panels.panel import PanelCard, clear, label
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.fields import ValueField
from gwiazda.desktop.widgets.offer import OfferButton

REPLACED = ("lamp", "resistor", "fibre", "wire")
MOST = 8  # rows until one asks for the rest


def _read_pack(text: str, kind: str) -> float:
    return read_count(text, kind, "Sold by") if text.strip() else 0.0


def _read_price(text: str) -> float:
    return parse_number(text, "Price", 0.0, MOST_PRICE) if text.strip() else 0.0


class BuyCard(PanelCard):
    """Parts of this plan: needed, in the drawer, to buy."""

    title = "What to buy"

    def build(self) -> None:
        card = self.card
        self.words = card.consequence()
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        card.outer.addLayout(self.rows)
        self.note = label("", "muted", wrap=True)
        card.outer.addWidget(self.note)
        buttons = QHBoxLayout()
        self.keep = QPushButton("Reserve")
        self.keep.setToolTip("Keep what is in the drawer for this plan, so that other plans don’t count on it")
        self.keep.clicked.connect(self._keep)
        self.back = QPushButton("Give back")
        self.back.setToolTip("Let other plans have what was laid aside for this one")
        self.back.clicked.connect(self._give_back)
        self.priced = QPushButton("Prices")
        self.priced.setCheckable(True)
        self.priced.setToolTip(
            "Type what a pack costs and how many are in it: the list says how many packs, and the sum"
        )
        self.priced.clicked.connect(self.refresh)
        for b in (self.keep, self.back, self.priced):
            buttons.addWidget(b)
        card.outer.addLayout(buttons)
        self.all = False
        self._tried_for: Plan | None = None
        self._shown: object = None
        self._order: tuple[tuple[str, str], ...] = ()
        self._lines: dict[tuple[str, str], tuple[QWidget, QPushButton, ValueField, QLabel]] = {}
        self._sold: dict[tuple[str, str], tuple[ValueField, ValueField]] = {}
        self._tried: dict[tuple[str, str], tuple[Substitute | Swap, ...]] = {}

    def buys(self) -> tuple[Buy, ...]:
        plan = self.document.assessed_plan
        return buying(shopping_rows(plan, self.document.assessment), self.document.workshop, plan.kit.name)

    def _change(self, workshop: Workshop) -> None:
        try:
            self.document.change_workshop(workshop)
        except GwiazdaError as error:
            self.document.message_stop(str(error))

    def _held(self, kind: str, of: str, **fields: float) -> None:
        """Another count, pack or price of a part in the drawer; with no price, none of it and no place it isn't written there."""
        buy, w = self._of(kind, of), self.document.workshop
        if buy is None:
            return
        part = buy.key[1] if buy.kind == "resistor" else buy.part
        held = Held(buy.kind, part, buy.held, buy.where, buy.pack, buy.price)._replace(**fields)  # type: ignore[arg-type]
        self._change(w.with_drawer({**w.drawer, buy.key: held}))

    def _keep(self) -> None:
        w = self.document.workshop
        self._change(w.with_kept(self.panel.plan.kit.name, to_keep(self.buys())))

    def _give_back(self) -> None:
        self._change(self.document.workshop.with_kept(self.panel.plan.kit.name, {}))

    def refresh(self) -> None:
        if self._tried_for is not self.document.assessed_plan:
            self._tried, self._tried_for = {}, self.document.assessed_plan
        buys = self.buys()
        name = self.panel.plan.kit.name
        kept = self.document.workshop.kept.get(name, {})
        self.keep.setEnabled(bool(to_keep(buys)) and dict(kept) != to_keep(buys))
        self.back.setEnabled(bool(kept))
        lacking = [b for b in buys if b.buy]
        self.words.setText(
            f"{counted(len(lacking), 'part')} of {len(buys)} to buy, spares counted. {cost_words(buys)}".strip()
            if lacking
            else ("All of it is in the drawer, spares too." if buys else "Nothing is needed yet: place a lamp first.")
        )
        self._show(buys, lacking)
        elsewhere = [b for b in buys if b.elsewhere]
        self.note.setText(
            "Type how many are in the drawer. "
            + (f"Other plans keep some of {counted(len(elsewhere), 'part')}. " if elsewhere else "")
            + (f"{counted(len(kept), 'part')} laid aside for {name}." if kept else "")
        )

    def _show(self, buys: tuple[Buy, ...], lacking: list[Buy]) -> None:
        """What lacks first, in an order that holds while one counts: rows stay, so that the keys go on from one to the next."""
        by_key = {(b.kind, b.part): b for b in buys}
        if set(by_key) != set(self._order):
            self._order = tuple((b.kind, b.part) for b in lacking + [b for b in buys if not b.buy])
        offers = {k: s for k in self._order if by_key[k].buy and (s := self._tried.get(k))}
        key = (self._order, self.all, self.priced.isChecked(), tuple(offers.items()))
        if key != self._shown:
            self._shown = key
            clear(self.rows)
            self._lines, self._sold = {}, {}
            for k in self._order if self.all else self._order[:MOST]:
                self.rows.addWidget(self._row(by_key[k]))
                for offer in offers.get(k, ()):
                    self.rows.addWidget(self._offer(by_key[k], offer))
            if len(self._order) > MOST:
                more = QPushButton("Fewer" if self.all else f"{len(self._order) - MOST} more")
                more.clicked.connect(self._more)
                self.rows.addWidget(more)
        for k, line in self._lines.items():
            self._fill(by_key[k], *line)

    def _more(self) -> None:
        self.all = not self.all
        self.refresh()

    def _row(self, b: Buy) -> QWidget:
        holder = QWidget()
        lines = QVBoxLayout(holder)
        lines.setContentsMargins(0, 2, 0, 2)
        lines.setSpacing(1)
        words = b.detail.split(", metres")[0] if b.kind != "resistor" else f"{b.part} resistor"
        lines.addWidget(label(words, "", wrap=True))
        row = QHBoxLayout()
        row.setSpacing(4)
        lines.addLayout(row)
        row.addStretch(1)
        instead = QPushButton("Alternatives")
        instead.setAccessibleName(f"Instead of {b.detail}")
        instead.setToolTip("What is in the drawer that could take its place, and what that changes")
        instead.clicked.connect(lambda: self._instead(b.kind, b.part))
        row.addWidget(instead)
        field = self.panel.value(
            f"In the drawer: {b.detail or b.part}",
            partial(read_count, kind=b.kind, what="In the drawer"),
            lambda n: self._held(b.kind, b.part, amount=n),
            "how many are in the drawer" + (f", {b.unit}" if b.unit else ""),
        )
        field.setFixedWidth(scaled(52))
        row.addWidget(field)
        result = label("", "unit")
        result.setMinimumWidth(scaled(46))
        row.addWidget(result)
        self._lines[b.kind, b.part] = (holder, instead, field, result)
        if self.priced.isChecked():
            lines.addLayout(self._sold_row(b))
        return holder

    def _sold_row(self, b: Buy) -> QHBoxLayout:
        """How many are sold at once, and for how much."""
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addStretch(1)
        what = b.detail or b.part
        pack = self.panel.value(
            f"Sold by: {what}", partial(_read_pack, kind=b.kind), lambda n: self._held(b.kind, b.part, pack=n),
            "how many are in a pack" + (f", {b.unit}" if b.unit else "") + "; empty for one",
        )  # fmt: skip
        price = self.panel.value(
            f"Price: {what}",
            _read_price,
            lambda x: self._held(b.kind, b.part, price=x),
            "what a pack costs, in your own money; empty where you don’t know",
        )
        for words, field in (("sold by", pack), ("at", price)):
            row.addWidget(label(words, "muted"))
            field.setFixedWidth(scaled(58))
            row.addWidget(field)
        self._sold[b.kind, b.part] = (pack, price)
        return row

    def _fill(self, b: Buy, holder: QWidget, instead: QPushButton, field: ValueField, result: QLabel) -> None:
        where = f", {b.where}" if b.where else ""
        others = f"; {b.elsewhere:g} of {b.held:g} kept for other plans" if b.elsewhere else ""
        holder.setToolTip(f"{b.kind}: {b.part}; {b.needed} needed, {b.wanted} with spares{where}{others}")
        instead.setVisible(b.kind in REPLACED and b.buy > 0 and (b.kind, b.part) not in self._tried)
        field.show_value(f"{b.held:g} {b.unit}".strip())
        if (b.kind, b.part) in self._sold:
            pack, price = self._sold[b.kind, b.part]
            pack.show_value(f"{b.pack:g} {b.unit}".strip() if b.pack else "")
            price.show_value(f"{b.price:.2f}" if b.price else "")
        packs = f", {counted(b.packs, 'pack')}" if b.packs and b.buy else ""
        result.setText(f"buy {b.buy} {b.unit}".strip() + packs if b.buy else "enough")

    def _of(self, kind: str, part: str) -> Buy | None:
        return next((b for b in self.buys() if (b.kind, b.part) == (kind, part)), None)

    def _instead(self, kind: str, of: str) -> None:
        b = self._of(kind, of)
        if b is None:
            return
        w, name = self.document.workshop, self.panel.plan.kit.name
        free = [
            h.part for k, h in w.drawer.items() if h.kind == kind and h.amount - w.kept_by_others(name, k) >= b.needed
        ]
        plan, assessment = self.document.assessed_plan, self.document.assessment

        def job() -> tuple[Buy, tuple[Substitute | Swap, ...]]:
            if kind == "lamp":
                return b, substitutes(plan, assessment, b.part, free)
            return b, swaps(plan, assessment, kind, b.key[1] if kind == "resistor" else b.part, free)

        self.panel.task("instead").ask(plan, job, self._take)

    def _take(self, result: tuple[Buy, tuple[Substitute | Swap, ...]]) -> None:
        b, offers = result
        if offers:
            self._tried[b.kind, b.part] = offers
        else:
            self.document.message.emit(
                f"No other {'lamp of that colour' if b.kind == 'lamp' else b.kind} near it is in the drawer in number "
                f"({b.needed}{b.unit and ' ' + b.unit} needed).",
                "info",
            )
        self.refresh()

    def _offer(self, b: Buy, s: Substitute | Swap) -> QWidget:
        row = OfferButton(f"{s.name}")
        if isinstance(s, Swap):
            row.show_outcome(s.outcome, s.state)
            row.setToolTip(f"{s.name} in place of {b.part}, all of them: {s.outcome}")
            row.clicked.connect(lambda: self._swap(b, s))
            return row
        more = f"{'+' if s.more_a >= 0 else '−'}{format_current(abs(s.more_a))}"
        row.show_outcome(f"{s.light:.2g} × light, {more}", "fine" if 0.7 <= s.light <= 1.5 else "look")
        row.setToolTip(f"{s.name} in place of {b.detail}, all of them: {s.light:.2g} times the light, {more} in all")
        row.clicked.connect(lambda: self._swap(b, s))
        return row

    def _swap(self, b: Buy, s: Substitute | Swap) -> None:
        self._tried.clear()
        self.document.edit(f"{s.name} from the drawer", s.edit if isinstance(s, Swap) else with_part(b.part, s.part))
