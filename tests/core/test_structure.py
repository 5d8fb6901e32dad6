"""The house stays one that its engineers find their way in: sizes, arrows, and who may change what."""

import ast
from collections.abc import Iterator
from pathlib import Path

import grimp
import pytest

SOURCE = Path(__file__).parents[2] / "src" / "plain_stride"
MOST_METHODS, MOST_MODULE, MOST_FUNCTION = 40, 500, 60
FILES = sorted(SOURCE.rglob("*.py"))


def trees() -> Iterator[tuple[Path, ast.Module]]:
    for path in FILES:
        yield path.relative_to(SOURCE), ast.parse(path.read_text())


def test_no_module_function_or_class_is_too_large():
    large = []
    for path, tree in trees():
        last = max((node.end_lineno or 0 for node in tree.body), default=0)
        large += [f"{path}: {last} lines"] * (last > MOST_MODULE)
        for node in ast.walk(tree):
            if isinstance(node, ast.FunctionDef):
                lines = (node.end_lineno or 0) - node.lineno + 1
                large += [f"{path}: {node.name} of {lines} lines"] * (lines > MOST_FUNCTION)
            elif isinstance(node, ast.ClassDef):
                methods = sum(isinstance(one, ast.FunctionDef) for one in node.body)
                large += [f"{path}: {node.name} with {methods} methods"] * (methods > MOST_METHODS)
    assert not large


def test_no_modules_import_each_other_in_a_circle():
    """Imports that only annotations need count as well."""
    graph = grimp.build_graph("plain_stride")
    open_modules = {one: set(graph.find_modules_directly_imported_by(one)) for one in graph.modules}
    while leaves := [one for one, used in open_modules.items() if not used]:
        for leaf in leaves:
            del open_modules[leaf]
        for used in open_modules.values():
            used.difference_update(leaves)
    assert not open_modules


def written_elsewhere(tree: ast.Module) -> Iterator[str]:
    """Writes into the attributes of what is not `self`."""
    for node in ast.walk(tree):
        targets = node.targets if isinstance(node, ast.Assign) else [getattr(node, "target", None)]
        if isinstance(node, ast.Assign | ast.AugAssign | ast.AnnAssign):
            flat = [one for t in targets for one in (t.elts if isinstance(t, ast.Tuple) else [t])]
            for one in flat:
                if isinstance(one, ast.Attribute) and not (isinstance(one.value, ast.Name) and one.value.id == "self"):
                    yield f"line {one.lineno}: {ast.unparse(one)}"


@pytest.mark.parametrize("code", ["a.b = 1", "self.a.b = 1", "x, self.a.b = 1, 2", "a.b += 1"])
def test_a_write_elsewhere_is_found(code):
    assert list(written_elsewhere(ast.parse(code)))


def test_the_window_writes_into_nobody_elses_attributes():
    """What Python itself asks one to set so is no one else's."""
    allowed = {"sys.excepthook", "threading.excepthook", "getattr(xkb, name).restype"}
    found = [
        f"{path} {words}"
        for path, tree in trees()
        if path.parts[0] == "desk"
        for words in written_elsewhere(tree)
        if words.split(": ")[1] not in allowed
    ]
    assert not found
