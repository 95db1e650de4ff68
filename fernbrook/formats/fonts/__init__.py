"""The fonts that are drawn with where there is no page: Source Sans Pro, under the SIL Open Font Licence."""

from pathlib import Path

REGULAR = Path(__file__).parent / "SourceSansPro-Regular.ttf"
SEMIBOLD = Path(__file__).parent / "SourceSansPro-Semibold.ttf"
