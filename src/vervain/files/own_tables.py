"""The builder's own tables: files that stand in for the shipped ones of the same name."""

import logging
from collections.abc import Callable
from pathlib import Path

from vervain.bench.cause_table import trouble_table
from vervain.bench.step import bench_table
from vervain.catalogue.circuits import circuits
from vervain.catalogue.drafts import presets
from vervain.catalogue.one_list import usual_connectors
from vervain.catalogue.part_figures import figure_words
from vervain.catalogue.pin_words import own_wordings, wordings
from vervain.catalogue.port_words import port_words
from vervain.data import replace_tables
from vervain.electrical.copper import check_tables
from vervain.electrical.pin_needs import needs, partners
from vervain.files.problems import FileProblem
from vervain.files.reading import files_in, read_bytes
from vervain.files.shelf import own_folder
from vervain.harness.build_sheet import making
from vervain.harness.fittings import fittings
from vervain.model.colours import plain_colours
from vervain.model.connectors import families
from vervain.ports.compatibility import mates
from vervain.ports.device_words import device_words
from vervain.stops.what_goes import check_stop_tables
from vervain.supply.inrush import melting_table
from vervain.supply.states import feed_table
from vervain.tables.explanations import explanations
from vervain.tables.guide import guides
from vervain.tables.open_leads import advice
from vervain.text.name_words import name_words

log = logging.getLogger("vervain")
# The tables that can be replaced, each with what reads it.
READERS: dict[str, Callable[[], object]] = {
    "colours.toml": plain_colours,
    "connectors.toml": families,
    "copper.toml": check_tables,
    "feeds.toml": feed_table,
    "fuses.toml": melting_table,
    "harness.toml": fittings,
    "mates.toml": mates,
    "needs.toml": needs,
    "partners.toml": partners,
    "open_leads.toml": advice,
    "explanations.toml": explanations,
    "guide.toml": guides,
    "circuits.toml": circuits,
    "one_list.toml": usual_connectors,
    "pin_words.toml": wordings,
    "port_words.toml": port_words,
    "device_words.toml": device_words,
    "name_words.toml": name_words,
    "own_words.toml": own_wordings,
    "figures.toml": figure_words,
    "presets.toml": presets,
    "stops.toml": check_stop_tables,
    "making.toml": making,
    "bench.toml": bench_table,
    "troubleshooting.toml": trouble_table,
}
LARGEST_BYTES = 1_000_000


def take_own_tables(folder: Path) -> tuple[list[str], list[FileProblem]]:
    """Puts the tables of a folder in place of the shipped ones; to be called before any is read.

    Gives the names of those taken, and a problem for each file that is not understood, whose
    shipped one stays. Raises `ValueError`.
    """
    taken: list[str] = []
    problems: list[FileProblem] = []
    for path in files_in(folder, ".toml"):
        reader = READERS.get(path.name)
        if reader is None:
            known = ", ".join(READERS)
            problems.append(FileProblem(str(path), f"No table has this name. There are {known}."))
            continue
        try:
            data = read_bytes(path, LARGEST_BYTES)
            if len(data) > LARGEST_BYTES:
                raise ValueError("it is too large for a table")
            replace_tables({path.name: data.decode("utf-8")})
            reader()
        except Exception as error:
            # Whatever a table does to its reader, the shipped one stays and the program starts.
            log.info("the table %s is not taken: %r", path, error)
            replace_tables({path.name: None})
            words = f"It is no such table: {error}. The shipped one stays."
            problems.append(FileProblem(str(path), words))
        else:
            taken.append(path.name)
    return taken, problems


def own_tables_folder() -> Path:
    """Where the builder's own tables lie: beside the own parts."""
    return own_folder().parent / "tables"
