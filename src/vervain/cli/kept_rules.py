"""Where versions are kept, as the window was told."""

from configparser import ConfigParser, Error
from pathlib import Path

from vervain.files.versions import MOST_KEPT, MOST_KEPT_BYTES, VersionRules, default_rules


def kept_rules() -> VersionRules:
    """Where the builder's settings say that versions are kept, and how many."""
    import platformdirs

    rules = default_rules()
    parser = ConfigParser(interpolation=None, strict=False)
    try:
        parser.read(Path(platformdirs.user_config_dir("vervain")) / "vervain.ini", "utf-8")
        folder = parser.get("versions", "folder", fallback="")
        return VersionRules(
            Path(folder) if folder else rules.folder,
            parser.getint("versions", "most_kept", fallback=MOST_KEPT),
            parser.getint("versions", "most_mb", fallback=MOST_KEPT_BYTES // 1_000_000) * 1_000_000,
        )
    except (Error, ValueError, OSError):
        return rules
