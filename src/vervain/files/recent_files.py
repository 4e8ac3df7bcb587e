"""The desktop's own list of files that were used lately (desktop bookmark specification 0.9 of
freedesktop.org): machines stand in it beside those of all other programs.
"""

from datetime import UTC, datetime
from pathlib import Path
from xml.etree import ElementTree

from vervain.files.desktop_integration import MACHINE, user_folder
from vervain.files.problems import FileProblem
from vervain.files.writing import write_whole

BOOKMARK = "http://www.freedesktop.org/standards/desktop-bookmarks"
MIME = "http://www.freedesktop.org/standards/shared-mime-info"
OWNER = "http://freedesktop.org"
TYPE = f"application/{MACHINE.removeprefix('application-')}"
APPLICATION, COMMAND = "Vervain", "'vervain %f'"
# A list larger than this is not ours to read and write at every opening.
LARGEST_BYTES = 5_000_000
EMPTY = b'<xbel version="1.0"/>'


def recent_list() -> Path:
    """Where the list of the user is."""
    return user_folder() / "recently-used.xbel"


def add_recent(path: Path, where: Path, now: datetime | None = None) -> bool:
    """Adds a machine's file to the list, or says in it that it was used again; what others wrote
    stays. False, and the list as it was, where it cannot be read or written.
    """
    try:
        data = where.read_bytes() if where.exists() else EMPTY
        if len(data) > LARGEST_BYTES:
            return False
        root = ElementTree.fromstring(data)
    except (OSError, ElementTree.ParseError):
        return False
    if root.tag != "xbel":
        return False
    time = (now or datetime.now(UTC)).astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    _told(root, path.resolve().as_uri(), time)
    ElementTree.register_namespace("bookmark", BOOKMARK)
    ElementTree.register_namespace("mime", MIME)
    try:
        where.parent.mkdir(parents=True, exist_ok=True)
        write_whole(where, ElementTree.tostring(root, encoding="utf-8", xml_declaration=True))
    except (OSError, FileProblem):
        return False
    return True


def _told(root: ElementTree.Element, address: str, time: str) -> None:
    """Puts the file into the list, or brings its entry up to date."""
    found = next((b for b in root.findall("bookmark") if b.get("href") == address), None)
    if found is None:
        found = ElementTree.SubElement(root, "bookmark", {"href": address, "added": time})
    found.set("modified", time)
    found.set("visited", time)
    metadata = _child(_child(found, "info"), "metadata", {"owner": OWNER})
    _child(metadata, f"{{{MIME}}}mime-type").set("type", TYPE)
    applications = _child(metadata, f"{{{BOOKMARK}}}applications")
    mine = _child(applications, f"{{{BOOKMARK}}}application", {"name": APPLICATION})
    count = mine.get("count", "0")
    mine.set("exec", COMMAND)
    mine.set("modified", time)
    mine.set("count", str(int(count) + 1 if count.isdecimal() else 1))


def _child(
    parent: ElementTree.Element, tag: str, having: dict[str, str] | None = None
) -> ElementTree.Element:
    """The child of a tag with some attributes, made where it is not there."""
    wanted = having or {}
    for child in parent.findall(tag):
        if all(child.get(key) == value for key, value in wanted.items()):
            return child
    return ElementTree.SubElement(parent, tag, wanted)
