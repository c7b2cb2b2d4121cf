"""Bundling each page's scripts into one file, with esbuild, when static files are collected."""

import json
import shutil
import subprocess
from pathlib import Path

from django.core.exceptions import ImproperlyConfigured

#: The edition of ECMAScript (ECMA-262) that browsers must support.
_TARGET = "es2022"


def bundle(folder: Path) -> set[str]:
    """Bundle the ES modules below a folder, in place.

    A module that no other imports is an entry point: it stays, with its imports inlined. The others are removed;
    returns their paths, relative to the folder. Pages load their own script and the site's: a module imported by both
    exists twice and must not have state. Raises `ImproperlyConfigured` when esbuild is missing or a module has a
    mistake.
    """
    tool = shutil.which("esbuild")
    if tool is None:
        raise ImproperlyConfigured("esbuild is missing: install Debian's package of that name.")
    modules = sorted(path.relative_to(folder).as_posix() for path in folder.rglob("*.js"))
    if not modules:
        return set()
    metafile = folder / "bundle.json"
    # Keep names, so that stack traces from browsers are readable.
    options = ["--bundle", "--format=esm", "--minify-whitespace", "--minify-syntax", f"--target={_TARGET}"]
    options += ["--outdir=.", "--outbase=.", "--allow-overwrite", f"--metafile={metafile}", "--log-level=error"]
    done = subprocess.run([tool, *modules, *options], cwd=folder, check=False, capture_output=True, text=True)
    if done.returncode:
        raise ImproperlyConfigured(f"The scripts could not be put together:\n{done.stderr}")
    inputs = json.loads(metafile.read_text())["inputs"]
    metafile.unlink()
    imported = {one["path"] for module in inputs.values() for one in module["imports"]}
    for name in imported:
        (folder / name).unlink()
    return imported
