"""Writes the published schemas and docs/examples anew from the models and the demo."""

import json
from pathlib import Path

from ondine.demo.taught import IN_HAND, RACE_IN_HAND
from ondine.logbook.exchange_columns import columns_in_words
from ondine.logbook.export_json import shots_schema
from ondine.logbook.recipe import recipe_schema, write_recipe
from ondine.logbook.setup_file import setup_schema, write_setup

ROOT = Path(__file__).parents[1]
DOCS, SCHEMAS = ROOT / "docs", ROOT / "src" / "ondine" / "assets" / "schemas"

MARK = "<!-- columns -->\n"
"""What comes after it on the page of the table is written by this tool."""


def main() -> None:
    """Write all."""
    for name, schema in (("recipe", recipe_schema()), ("setup", setup_schema()), ("shots", shots_schema())):
        text = json.dumps(schema, indent=2) + "\n"
        (SCHEMAS / f"{name}.schema.json").write_text(text, encoding="utf-8")
    page = DOCS / "log-table.md"
    page.write_text(page.read_text(encoding="utf-8").split(MARK)[0] + MARK + columns_in_words(), encoding="utf-8")
    recipe = write_recipe(IN_HAND, "Tidal Mill, full umbrella")
    (DOCS / "examples" / "tidal-mill.json").write_text(recipe, encoding="utf-8")
    race = write_recipe(RACE_IN_HAND, "Mill race, two valves and two flashes")
    (DOCS / "examples" / "mill-race.json").write_text(race, encoding="utf-8")
    write_setup(IN_HAND.setup, IN_HAND.belief, DOCS / "examples" / "tidal-mill-setup.json")


if __name__ == "__main__":
    main()
