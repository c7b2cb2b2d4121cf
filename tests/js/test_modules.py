import subprocess
import sys
from pathlib import Path

import pytest

HERE = Path(__file__).parent


@pytest.mark.parametrize("file", sorted(HERE.glob("*.test.js")), ids=lambda f: f.name)
def test_the_modules_that_know_no_page(file):
    node = Path(sys.executable).parent / "node"
    done = subprocess.run([node, "--test", str(file)], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout
    assert "# fail 0" in done.stdout or "fail 0" in done.stdout
