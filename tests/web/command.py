"""The command line of the application, as a shop's keeper would use it."""

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def run(home: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    env = os.environ | {"FELLWIND_HOME": str(home), "PYTHONPATH": str(ROOT / "src")}
    command = [sys.executable, "-m", "fellwind", *arguments]
    return subprocess.run(command, env=env, capture_output=True, text=True, check=False)
