"""Changes one operator, comparison or constant of the core at a time and sees whether the core's own tests notice.

`./dev mutants 80` tries eighty random changes and prints those that survived; `./dev mutants 80 7` begins elsewhere.
Numbers that are a limit of a form, or a stroke of drawing, may survive; a formula may not.
"""

import ast
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
CORE = Path("ondine") / "core"
SWAPS = {
    "+": "-", "-": "+", "*": "/", "/": "*", "**": "*", "//": "/", "%": "*",
    "<": ">=", "<=": ">", ">": "<=", ">=": "<", "==": "!=", "!=": "==",
}  # fmt: skip
DECLARED = ("number", "plain", "parts", "colour", "Quantity", "lru_cache", "field", "Mix")
"""Calls that only declare: their numbers are limits and steps of forms, or shares of a recipe."""

TIMEOUT_S = 180


@dataclass(frozen=True)
class Mutant:
    """One change: in which file, which characters, to what."""

    path: Path
    start: int
    end: int
    new: str
    line: int

    def of(self, text: str) -> str:
        """Return the changed text."""
        return text[: self.start] + self.new + text[self.end :]

    def words(self, text: str) -> str:
        """Say where it is, and what became of the line."""
        before, after = (t.splitlines()[self.line - 1].strip() for t in (text, self.of(text)))
        return f"{self.path}:{self.line}\n    {before}\n    {after}"


def mutants_of(path: Path, text: str) -> list[Mutant]:
    """Return every change that could be made to a file."""
    starts = [0]
    for line in text.splitlines(keepends=True):
        starts.append(starts[-1] + len(line))

    def at(line: int, column: int) -> int:
        # The syntax tree counts bytes, we count characters.
        start = starts[line - 1]
        return start + len(text[start : starts[line]].encode()[:column].decode())

    found: list[Mutant] = []

    def between(left: ast.expr, right: ast.expr) -> None:
        start, end = at(left.end_lineno or 0, left.end_col_offset or 0), at(right.lineno, right.col_offset)
        match = re.search(r"\*\*|//|<=|>=|==|!=|[-+*/%<>]", text[start:end])
        if match and match[0] in SWAPS:
            line = text.count("\n", 0, start + match.start()) + 1
            found.append(Mutant(path, start + match.start(), start + match.end(), SWAPS[match[0]], line))

    def visit(node: ast.AST) -> None:
        if isinstance(node, ast.Call) and ast.unparse(node.func).rsplit(".", 1)[-1] in DECLARED:
            return
        if isinstance(node, ast.JoinedStr | ast.arguments):
            return
        if isinstance(node, ast.BinOp):
            between(node.left, node.right)
        if isinstance(node, ast.Compare):
            between(node.left, node.comparators[0])
        if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
            span = at(node.lineno, node.col_offset), at(node.end_lineno or 0, node.end_col_offset or 0)
            changed = node.value + 1 if isinstance(node.value, int) else node.value * 1.5 or 0.5
            found.append(Mutant(path, *span, repr(changed), node.lineno))
        for child in ast.iter_child_nodes(node):
            visit(child)

    visit(ast.parse(text))
    return found


def survives(mutant: Mutant, text: str, source: Path) -> bool:
    """Whether no test of the core fails on a changed core: first the file's own tests, then all."""
    place = source / mutant.path
    place.write_text(mutant.of(text), encoding="utf-8")
    own = ROOT / "tests" / mutant.path.relative_to("ondine").with_name(f"test_{mutant.path.name}")
    try:
        return all(_passes(tests, source) for tests in (own, ROOT / "tests" / "core") if tests.exists())
    finally:
        place.write_text(text, encoding="utf-8")


def _passes(tests: Path, source: Path) -> bool:
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", str(tests)]
    env = {**os.environ, "PYTHONPATH": str(source), "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        return subprocess.run(command, env=env, cwd=ROOT, capture_output=True, timeout=TIMEOUT_S).returncode == 0
    except subprocess.TimeoutExpired:
        return False


def main() -> int:
    """Try as many changes as asked for; return 0."""
    wanted = int(sys.argv[1]) if len(sys.argv) > 1 else 40
    rng = random.Random(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    with tempfile.TemporaryDirectory() as home:
        source = Path(home) / "src"
        shutil.copytree(ROOT / "src", source, ignore=shutil.ignore_patterns("__pycache__"))
        texts = {p.relative_to(source): p.read_text(encoding="utf-8") for p in sorted((source / CORE).rglob("*.py"))}
        known = [mutant for path, text in texts.items() for mutant in mutants_of(path, text)]
        chosen = rng.sample(known, min(wanted, len(known)))
        survived = 0
        for number, mutant in enumerate(chosen, start=1):
            if survives(mutant, texts[mutant.path], source):
                survived += 1
                print(mutant.words(texts[mutant.path]), flush=True)
            print(f"\r{number} of {len(chosen)}, {number - survived} noticed", end="", file=sys.stderr, flush=True)
    print(f"\n{len(chosen) - survived} of {len(chosen)} changes were noticed (of {len(known)} that could be made).")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
