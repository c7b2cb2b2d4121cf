"""The changes that `./run mutants` makes."""

from tools.check.mutants import ROOT, files_testing, mutants_of

SOURCE = """
LIMIT = 3

def first(rows, low=0):
    if not rows and low < LIMIT:
        return low + 1
    return max(rows)
"""


def test_each_change_is_one_place_of_a_function_and_the_file_still_parses(tmp_path):
    path = tmp_path / "one.py"
    path.write_text(SOURCE)
    changes = {mutant.what: mutant.source for mutant in mutants_of(path)}
    assert {
        "low < LIMIT  ->  low <= LIMIT",
        "low + 1  ->  low - 1",
        "not rows  ->  +rows",
        "max  ->  min",
        "not rows and low < LIMIT  ->  not rows or low < LIMIT",
    } <= set(changes)
    assert all(source != SOURCE and "LIMIT = 3" in source for source in changes.values())
    for source in changes.values():
        compile(source, "one.py", "exec")


def test_the_files_testing_a_module_come_first_and_those_of_what_uses_it_after():
    tests = files_testing(ROOT / "tinfork/core/speech/handwork.py")
    assert tests[0] == "tests/core/test_handwork.py"
    assert "tests/core/test_columns.py" in tests
