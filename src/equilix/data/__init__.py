"""What ships beside the code: fonts, icons, usual parts, the catalogue, first builds and the demo."""

from pathlib import Path

DATA = Path(__file__).parent
