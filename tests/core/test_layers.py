"""The core is free of the window."""

import pkgutil
import subprocess
import sys

import rushweed.core


def test_no_module_of_the_core_loads_qt() -> None:
    names = [m.name for m in pkgutil.walk_packages(rushweed.core.__path__, "rushweed.core.")]
    assert len(names) > 30
    code = (
        "import sys, importlib\n"
        "class Gone:\n"
        "    def find_spec(self, name, path=None, target=None):\n"
        "        if name.split('.')[0] in ('PyQt6', 'qtawesome'): raise ImportError(name)\n"
        "sys.meta_path.insert(0, Gone())\n"
        f"[importlib.import_module(n) for n in {names!r}]\n"
        "assert not [m for m in sys.modules if m.startswith('PyQt6')]\n"
    )
    subprocess.run([sys.executable, "-c", code], check=True)


def test_a_window_with_all_its_stages_needs_no_compiler() -> None:
    """Reading that takes most of a second; the loops are brought beside the window, or by who needs them."""
    code = (
        "import importlib, sys\n"
        "from rushweed.ui.session import STAGES\n"
        "for stage in STAGES:\n"
        "    importlib.import_module(f'rushweed.ui.stages.{stage}.stage')\n"
        "    importlib.import_module(f'rushweed.ui.stages.{stage}.commands')\n"
        "import rushweed.ui.later_parts\n"
        "assert 'numba' not in sys.modules\n"
    )
    subprocess.run([sys.executable, "-c", code], check=True)
