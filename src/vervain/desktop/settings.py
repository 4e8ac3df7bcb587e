"""What the window keeps between sessions: theme, text scale, columns, where versions are kept."""

from contextlib import suppress
from pathlib import Path

import msgspec
from PyQt6.QtCore import QSettings

from vervain.desktop.theme import NIGHT, PAPER, Theme, desktop_is_dark
from vervain.files.recent_files import recent_list
from vervain.files.shelf import own_folder
from vervain.files.versions import MOST_KEPT, MOST_KEPT_BYTES, VersionRules, default_rules
from vervain.model.measurements import Meter
from vervain.text.units import ALL_UNITS, Units

MOST_RECENT = 8
MOST_PX = 20_000
METER_FIELDS = ("leads_ohm", "error_fraction", "error_ohm", "beep_below_ohm", "open_above_ohm")


def settings_path() -> Path:
    """The INI file in the user's configuration folder."""
    import platformdirs

    return Path(platformdirs.user_config_dir("vervain")) / "vervain.ini"


class Settings:
    """The user's settings, in an INI file in the user's configuration folder."""

    def __init__(self, path: Path | None = None) -> None:
        where = path or settings_path()
        # Own parts lie in the user's data folder; beside a settings file that is given.
        self.parts_folder = path.parent / "parts" if path else own_folder()
        self.recent_list = path.parent / "recently-used.xbel" if path else recent_list()
        self._versions = path.parent / "versions" if path else default_rules().folder
        self._store = QSettings(str(where), QSettings.Format.IniFormat)
        self._dark = desktop_is_dark()

    def theme(self) -> Theme:
        """The theme to use; the desktop's own where nothing was chosen."""
        name = str(self._store.value("theme", "desktop"))
        if name == "paper":
            return PAPER
        if name == "night" or self._dark:
            return NIGHT
        return PAPER

    def scale(self) -> float:
        """The text scale, 0.8 to 2."""
        try:
            return max(0.8, min(2.0, float(self._store.value("scale", 1.0))))
        except (TypeError, ValueError):
            return 1.0

    def units(self) -> Units:
        """The units in which lengths and cross-sections are shown."""
        kept = str(self._store.value("units", ALL_UNITS[0]))
        return next((units for units in ALL_UNITS if units == kept), ALL_UNITS[0])

    def keep_units(self, units: Units) -> None:
        """Keeps the units."""
        self._store.setValue("units", units)

    def keep_theme(self, theme: str) -> None:
        """Keeps the theme: "paper", "night" or "desktop"."""
        self._store.setValue("theme", theme)

    def version_rules(self) -> VersionRules:
        """Where the versions of saved files are kept, and how many."""
        folder = str(self._store.value("versions/folder", "") or self._versions)
        count = self._number("versions/most_kept", MOST_KEPT, 10_000)
        size = self._number("versions/most_mb", MOST_KEPT_BYTES // 1_000_000, 1_000_000)
        return VersionRules(Path(folder), count, size * 1_000_000)

    def _number(self, key: str, otherwise: int, most: int) -> int:
        try:
            return max(0, min(most, int(self._store.value(key, otherwise))))
        except (TypeError, ValueError, OverflowError):
            return otherwise

    def keep_version_rules(self, rules: VersionRules) -> None:
        """Keeps where versions are kept, and how many."""
        self._store.setValue("versions/folder", str(rules.folder))
        self._store.setValue("versions/most_kept", rules.most_kept)
        self._store.setValue("versions/most_mb", rules.most_bytes // 1_000_000)

    def kept(self, key: str, otherwise: str | float) -> str | float:
        """A word or number that was kept; another one where there is none, or no such number."""
        found = self._store.value(key, otherwise)
        if isinstance(otherwise, str):
            return str(found)
        try:
            return float(found)
        except (TypeError, ValueError):
            return otherwise

    def lengths(self, key: str, otherwise: tuple[int, int]) -> tuple[int, int]:
        """Two lengths in pixels that were kept; others where they make no sense."""
        try:
            first, second = (int(word) for word in str(self.kept(key, "")).split())
        except ValueError:
            return otherwise
        is_sound = 0 < first <= MOST_PX and 0 < second <= MOST_PX
        return (first, second) if is_sound else otherwise

    def keep(self, key: str, value: str | float) -> None:
        """Keeps a word or number."""
        self._store.setValue(key, value)

    def columns(self, face: str) -> tuple[str, ...]:
        """The columns that were chosen for a face of the harness table; none where none were."""
        kept = self._store.value(f"columns/{face}", [])
        return tuple(kept) if isinstance(kept, list) else (str(kept),)

    def keep_columns(self, face: str, columns: tuple[str, ...]) -> None:
        """Keeps the columns that were chosen for a face."""
        self._store.setValue(f"columns/{face}", list(columns))

    def recent(self) -> list[Path]:
        """The machine files that were opened or saved last, the newest first."""
        kept = self._store.value("recent", [])
        paths = kept if isinstance(kept, list) else [str(kept)]
        return [Path(str(path)) for path in paths][:MOST_RECENT]

    def keep_recent(self, path: Path) -> None:
        """Puts a machine file at the head of the recent ones."""
        others = [str(other) for other in self.recent() if other != path]
        self._store.setValue("recent", [str(path), *others][:MOST_RECENT])

    def meter(self) -> Meter:
        """The meter that was set last, for new machines; the usual one where none was."""
        kept = {}
        for name in METER_FIELDS:
            with suppress(TypeError, ValueError):
                kept[name] = float(self._store.value(f"meter/{name}"))
        try:
            return msgspec.convert(kept, Meter)
        except msgspec.ValidationError:
            return Meter()

    def keep_meter(self, meter: Meter) -> None:
        """Keeps what the meter is like; how warm the motor is belongs to the day."""
        for name in METER_FIELDS:
            self._store.setValue(f"meter/{name}", getattr(meter, name))

    def keep_scale(self, scale: float) -> None:
        """Keeps the text scale."""
        self._store.setValue("scale", scale)
