"""Theme, text size and units as the builder chose them: kept, and put into every view at once."""

from collections.abc import Callable

from vervain.data import replace_tables
from vervain.desktop.session import Session
from vervain.desktop.settings import Settings
from vervain.desktop.theme import looks, use
from vervain.text.units import Units, use_units

SMALLEST, LARGEST = 0.8, 2.0


class Appearance:
    """What changes how the window looks; `arrange` fits its parts to another size of text."""

    def __init__(self, settings: Settings, session: Session, arrange: Callable[[], None]) -> None:
        self.settings, self.session, self.arrange = settings, session, arrange

    def set_scale(self, scale: float) -> None:
        """Sets the text scale, 80 to 200 %."""
        scale = max(SMALLEST, min(LARGEST, round(scale, 2)))
        use(looks.theme, scale)
        self.settings.keep_scale(scale)
        self.arrange()

    def make_larger(self, by: float) -> None:
        """Changes the text scale by so much."""
        self.set_scale(looks.scale + by)

    def set_theme(self, name: str) -> None:
        """Sets the theme: paper, night, or as the desktop."""
        self.settings.keep_theme(name)
        use(self.settings.theme(), looks.scale)
        self.arrange()

    def set_units(self, units: Units) -> None:
        """Shows lengths and cross-sections in these units, in every view and on paper."""
        self.settings.keep_units(units)
        use_units(units)
        # Whatever was said in the units before is asked for again.
        replace_tables({})
        self.session.read_anew()
