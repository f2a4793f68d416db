"""The liquid: shares or a wished-for viscosity to grams, and what the mix does."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QComboBox, QLineEdit

from ondine.core.setup import Setup
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
    "mix.glycerine_mass_fraction",
    "mix.milk_mass_fraction",
    "mix.cream_mass_fraction",
    "mix.gum_mass_fraction",
    "mix.gum_stood_h",
    "mix.dye_mass_fraction",
    "mix.temperature_c",
    "mix.tint",
    "bowl.tint",
)
MEASURED = {
    "mix.measured_density_kg_m3": "density_kg_m3",
    "mix.measured_viscosity_pa_s": "viscosity_pa_s",
    "mix.measured_surface_tension_n_m": "surface_tension_n_m",
}


class LiquidStage(StagePage):
    """Library, shares, batch, measured values, bowl."""

    title = "The liquid of the drops"
    hint = "Give shares, or a viscosity to reach; the glass shows the grams of a batch."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.figure = self.glass = GlassFigure()
        self.batch_g = 500.0
        self.library = QComboBox()
        self.library.setMinimumHeight(32)
        self.library.setAccessibleName("Mixes to start from")
        self.library.activated.connect(self._take)
        self.name = QLineEdit()
        self.name.setPlaceholderText("Name of this mix")
        self.name.setAccessibleName("Name to keep this mix under")
        self.keep = button("Keep", lambda: tools.library.keep_mix(self.name.text()))
        self.form = Form(FIELDS)
        self.form.edited.connect(tools.editor.edit)
        self.batch = QuantityField("Batch")
        self.batch.show_as(Quantity("g", 1, 0, 10, 100))
        self.batch.display(self.batch_g)
        self.batch.edited.connect(self._batch)
        self.target = QuantityField("Viscosity to reach")
        self.target.show_as(quantity_of("mix.measured_viscosity_pa_s", tools.editor.units))
        self.target.display(2e-3)
        self.mix_for = button("Mix to reach it", self._mix_for)
        self.measured = {path: MeasuredField(path) for path in MEASURED}
        for path, field in self.measured.items():
            field.edited.connect(lambda value, p=path: tools.editor.edit(p, value))
        self.changed = button(
            "I changed the bowl", tools.studio.bench.bowl_changed, "The bowl was emptied and filled anew"
        )
        self.cautions = note(soft=False)
        self.column.addLayout(row(self.library, stretch=False))
        self.column.addWidget(self.form)
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
        self.form.show_setup(setup, table.units)
        computed = setup.mix.computed_liquid()
        for path, field in self.measured.items():
            field.display(getattr(setup.mix, path.split(".")[1]), getattr(computed, MEASURED[path]))
        names = [*LIBRARY, *self.tools.library.mixes]
        if names != [self.library.itemText(i) for i in range(1, self.library.count())]:
            self.library.clear()
            self.library.addItems(["Start from …", *names])
        self.cautions.setText("\n".join(cautions_of(setup.mix)))
        share = bowl_share(setup.bowl, table.ledger.bowl_m3)
        drops = table.ledger.bowl_drops
        says = f"{drops} drops have gone in since the bowl was changed: {share:.1%} of what it holds."
        tint = blended(setup.bowl.tint, setup.mix.tint, share)
        made = grams(setup.mix, self.batch_g)
        self.glass.show_mix(
            made, setup.mix.liquid(), effect(setup, table.belief, table.sequence), setup.mix.tint, (tint, says)
        )

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
            self.tools.library.use_mix(mix)

    def _mix_for(self) -> None:
        setup: Setup = self.tools.studio.composer.setup
        wanted = self.target.value() / 1e3
        try:
            share = glycerine_for_viscosity(wanted, setup.mix.temperature_c)
        except ValueError as error:
            self.tools.signals.refused.emit(str(error))
            return
        rest = replace(setup.mix, milk_mass_fraction=0.0, cream_mass_fraction=0.0, gum_mass_fraction=0.0)
        self.tools.editor.use(
            replace(setup, mix=replace(rest, glycerine_mass_fraction=share, measured_viscosity_pa_s=None))
        )
