"""The liquid: shares or a wished-for viscosity to grams, and what the mix does."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QComboBox, QLineEdit, QStackedWidget

from ondine.core.setup import Mix, Setup
from ondine.core.setup.fields import put
from ondine.core.table.mixing import LIBRARY, blended, bowl_share, cautions_of, effect, glycerine_for_viscosity, grams
from ondine.core.units import Quantity, quantity_of
from ondine.ui.kit.fields import QuantityField
from ondine.ui.kit.form import Form
from ondine.ui.kit.theme import GRID_PX
from ondine.ui.table.glass_figure import GlassFigure
from ondine.ui.table.measured import MeasuredField
from ondine.ui.table.stage import StagePage, button, heading, note, row, tag
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

FIELDS = (
    "glycerine_mass_fraction",
    "milk_mass_fraction",
    "cream_mass_fraction",
    "gum_mass_fraction",
    "gum_stood_h",
    "dye_mass_fraction",
    "wetting_agent",
    "temperature_c",
    "tint",
)
MEASURED = {
    "measured_density_kg_m3": "density_kg_m3",
    "measured_viscosity_pa_s": "viscosity_pa_s",
    "measured_surface_tension_n_m": "surface_tension_n_m",
}


class LiquidStage(StagePage):
    """Library, shares, batch, measured values, bowl."""

    title = "The liquid of the drops"
    hint = "Give shares, or a viscosity to reach; the glass shows the grams of a batch."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.figure = self.glass = GlassFigure()
        self.batch_g = 500.0
        self.which = QComboBox()
        self.which.setMinimumHeight(32)
        self.which.setAccessibleName("Which liquid")
        self.which.activated.connect(lambda _: tools.signals.altered.emit())
        self.own = button("Give it a liquid of its own", self._toggle_own)
        self.library = QComboBox()
        self.library.setMinimumHeight(32)
        self.library.setAccessibleName("Mixes to start from")
        self.library.activated.connect(self._take)
        self.name = QLineEdit()
        self.name.setPlaceholderText("Name of this mix")
        self.name.setAccessibleName("Name to keep this mix under")
        self.keep = button("Keep", lambda: tools.library.keep_mix(self.name.text(), self._mix()))
        self.forms = QStackedWidget()
        self.bowl = Form(("bowl.tint",))
        self.bowl.edited.connect(tools.editor.edit)
        self.batch = QuantityField("Batch")
        self.batch.show_as(Quantity("g", 1, 0, 10, 100))
        self.batch.display(self.batch_g)
        self.batch.edited.connect(self._batch)
        self.target = QuantityField("Viscosity to reach")
        self.target.show_as(quantity_of("measured_viscosity_pa_s", tools.editor.units))
        self.target.display(2e-3)
        self.mix_for = button("Mix to reach it", self._mix_for)
        self.measured = {name: MeasuredField(f"mix.{name}") for name in MEASURED}
        for name, field in self.measured.items():
            field.edited.connect(lambda value, n=name: tools.editor.edit(f"{self._stem()}.{n}", value))
        self.changed = button(
            "I changed the bowl", tools.studio.bench.bowl_changed, "The bowl was emptied and filled anew"
        )
        self.cautions = note(soft=False)
        self.column.addLayout(row(self.which, self.own, self.library, stretch=False))
        self.column.addWidget(self.forms)
        self.column.addWidget(self.bowl)
        self.column.addLayout(row(tag("Batch"), self.batch, tag("Reach"), self.target, self.mix_for, stretch=False))
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(heading("Measured values, used instead"))
        for field in self.measured.values():
            self.column.addWidget(field)
        self.column.addWidget(self.cautions)
        self.column.addStretch(1)
        self.column.addLayout(row(self.name, self.keep, self.changed, stretch=False))

    def show(self, table: TableState) -> None:
        """Show the mix, its grams and its effect."""
        setup = table.setup
        self._show_which(setup)
        mix = self._mix()
        self._form(setup).show_setup(setup, table.units)
        self.bowl.show_setup(setup, table.units)
        computed = mix.computed_liquid()
        for name, field in self.measured.items():
            field.display(getattr(mix, name), getattr(computed, MEASURED[name]))
        names = [*LIBRARY, *self.tools.library.mixes]
        if names != [self.library.itemText(i) for i in range(1, self.library.count())]:
            self.library.clear()
            self.library.addItems(["Start from …", *names])
        self.cautions.setText("\n".join(cautions_of(mix)))
        share = bowl_share(setup.bowl, table.ledger.bowl_m3)
        drops = table.ledger.bowl_drops
        says = f"{drops} drops have gone in since the bowl was changed: {share:.1%} of what it holds."
        tint = blended(setup.bowl.tint, mix.tint, share)
        found = effect(with_one_liquid(setup, mix), table.belief, table.sequence)
        self.glass.show_mix(grams(mix, self.batch_g), mix.liquid(), found, mix.tint, (tint, says))

    # Which liquid

    def _valve(self) -> int | None:
        """The valve whose liquid is shown; None for that of the table."""
        return self.which.currentIndex() - 1 if self.which.currentIndex() > 0 else None

    def _stem(self) -> str:
        """Path of the liquid that is shown: the valve's own, or the table's where it has none."""
        valve = self._valve()
        own = valve is not None and self.tools.studio.composer.setup.valves[valve].liquid is not None
        return f"valves.{valve}.liquid" if own else "mix"

    def _mix(self) -> Mix:
        valve, setup = self._valve(), self.tools.studio.composer.setup
        return setup.mix if valve is None else setup.mix_of(valve)

    def _show_which(self, setup: Setup) -> None:
        """Offer the table's liquid, and each valve where there are several."""
        words = ["All valves"] + [f"{v.name}: {'its own' if v.liquid else 'as all valves'}" for v in setup.valves]
        if words != [self.which.itemText(n) for n in range(self.which.count())]:
            held = min(max(self.which.currentIndex(), 0), len(words) - 1)
            self.which.clear()
            self.which.addItems(words)
            self.which.setCurrentIndex(held)
        several = len(setup.valves) > 1 or any(valve.liquid for valve in setup.valves)
        self.which.setVisible(several)
        valve = self._valve()
        self.own.setVisible(several and valve is not None)
        if valve is not None:
            has_own = setup.valves[valve].liquid is not None
            self.own.setText("Use that of all valves" if has_own else "Give it its own")
        # A valve that shares the liquid of all shows it, and changes nothing of it.
        for widget in (self.forms, self.library, self.target, self.mix_for, *self.measured.values()):
            widget.setEnabled(valve is None or setup.valves[valve].liquid is not None)

    def _form(self, setup: Setup) -> Form:
        """The fields of the liquid that is shown; a valve that has none of its own shows those of the table."""
        stem = self._stem()
        for n in range(self.forms.count()):
            form = self.forms.widget(n)
            assert isinstance(form, Form)
            if f"{stem}.tint" in form.fields:
                self.forms.setCurrentIndex(n)
                return form
        form = Form([f"{stem}.{name}" for name in FIELDS], setup)
        form.edited.connect(self.tools.editor.edit)
        self.forms.setCurrentIndex(self.forms.addWidget(form))
        return form

    def _toggle_own(self) -> None:
        """Give the valve a liquid of its own, like that of all for a start, or take it away again."""
        valve, setup = self._valve(), self.tools.studio.composer.setup
        if valve is not None:
            has_own = setup.valves[valve].liquid is not None
            self.tools.editor.use(put(setup, f"valves.{valve}.liquid", None if has_own else setup.mix))

    def _batch(self, value: float) -> None:
        if value > 0:
            self.batch_g = value
            self.tools.signals.altered.emit()
        else:
            self.tools.signals.refused.emit("A batch of nothing cannot be mixed. Give its grams.")
            self.batch.display(self.batch_g)

    def _take(self, index: int) -> None:
        name = self.library.itemText(index)
        mix = LIBRARY.get(name) or self.tools.library.mixes.get(name)
        self.library.setCurrentIndex(0)
        if mix is not None:
            self.tools.library.use_mix(mix, self._stem())

    def _mix_for(self) -> None:
        setup: Setup = self.tools.studio.composer.setup
        wanted = self.target.value() / 1e3
        try:
            share = glycerine_for_viscosity(wanted, self._mix().temperature_c)
        except ValueError as error:
            self.tools.signals.refused.emit(str(error))
            return
        rest = replace(self._mix(), milk_mass_fraction=0.0, cream_mass_fraction=0.0, gum_mass_fraction=0.0)
        made = replace(rest, glycerine_mass_fraction=share, measured_viscosity_pa_s=None)
        self.tools.editor.use(put(setup, self._stem(), made))


def with_one_liquid(setup: Setup, mix: Mix) -> Setup:
    """Return a table all of whose valves hold one liquid, to tell what it does."""
    return replace(setup, mix=mix, valves=tuple(replace(valve, liquid=None) for valve in setup.valves))
