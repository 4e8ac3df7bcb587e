"""One page for the phone at the bench: the route and every table, searchable, all in one file.

Every text from the machine is put in as text (ElementTree escapes it); the script is our own and
fixed, and reads only what stands on the page.
"""

import xml.etree.ElementTree as ElementTree
from datetime import date

from vervain.exports.paged_pdf import printable
from vervain.exports.stamp import stamp_of
from vervain.exports.tables import Table
from vervain.harness.build_sheet import build_sheets
from vervain.harness.route_shapes import draw_route
from vervain.harness.shapes import Code, Disc, Drawing, Frame, Shape, Stroke, Words
from vervain.model.colours import base_and_stripe, colour_words, is_colour
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.tables.build_sheet_drawing import draw_build_sheet
from vervain.tables.cutting_plan import draw_cutting
from vervain.tables.stop_drawing import draw_stops

STYLE = """
:root { --paper: #F6F3EC; --sheet: #FFFFFF; --ink: #25232D; --faded: #6A6674; --rule: #DAD5CA;
  --accent: #5A4A99; --wash: #E9E5F4; }
@media (prefers-color-scheme: dark) { :root { --paper: #1D1C22; --sheet: #26252D; --ink: #ECE9F1;
  --faded: #A29EAD; --rule: #3B3943; --accent: #AC9DEA; --wash: #37324C; } }
* { box-sizing: border-box; }
body { margin: 0; font: 16px/1.4 system-ui, sans-serif; background: var(--paper);
  color: var(--ink); }
header { position: sticky; top: 0; background: var(--paper); padding: .6em 1em;
  border-bottom: 1px solid var(--rule); }
h1 { font-size: 1.1em; margin: 0 0 .4em; }
input { width: 100%; font: inherit; padding: .5em .7em; border: 1px solid var(--rule);
  border-radius: 3px; background: var(--sheet); color: var(--ink); }
main { padding: 0 1em 3em; }
figure { margin: 1em 0; overflow-x: auto; background: #FFFFFF; border: 1px solid var(--rule); }
summary { font-weight: bold; padding: .7em 0 .3em; cursor: pointer; }
.scroll { overflow-x: auto; }
table { border-collapse: collapse; background: var(--sheet); font-size: .9em; }
th, td { text-align: left; padding: .3em .6em; border-bottom: 1px solid var(--rule);
  white-space: nowrap; }
th { color: var(--faded); position: sticky; top: 0; background: var(--paper); }
td.n { text-align: right; font-variant-numeric: tabular-nums; }
td b { display: inline-block; min-width: 2.6em; padding: 0 .3em; border: 1px solid var(--ink);
  text-align: center; font-size: .85em; margin-right: .2em; }
tr.hit { background: var(--wash); }
"""
SCRIPT = """
const field = document.querySelector("input");
const folded = (text) => text.toLowerCase().replaceAll("\u2212", "-");
// Cell by cell, with the names of colours: "w41" is not the end of one cell and the next one's.
const words_of = (row) => [...row.cells].flatMap((cell) => [cell.textContent,
  ...Array.from(cell.querySelectorAll("[title]"), (bar) => bar.title)]);
const rows = Array.from(document.querySelectorAll("tbody tr"), (row) =>
  [row, folded(words_of(row).join("\\n"))]);
for (const sheet of document.querySelectorAll("figure[id]")) {
  const words = Array.from(sheet.querySelectorAll("text"), (text) => text.textContent);
  rows.push([sheet, folded(words.join("\\n"))]);
}
function search() {
  const words = folded(field.value).split(/\\s+/).filter((word) => word);
  for (const [row, text] of rows) {
    row.hidden = !words.every((word) => text.includes(word));
  }
  for (const part of document.querySelectorAll("details")) {
    const kept = "tbody tr:not([hidden]), figure[id]:not([hidden])";
    const left = part.querySelectorAll(kept).length;
    part.querySelector("span").textContent = left;
    if (words.length) { part.open = left > 0; }
  }
}
field.addEventListener("input", search);
// The code on a build sheet names its cable: "#W14".
function go_to_cable() {
  let cable = location.hash.slice(1);
  try { cable = decodeURIComponent(cable); } catch (error) { return; }
  const sheet = cable && document.getElementById(`sheet-${cable}`);
  if (!cable) { return; }
  field.value = sheet ? "" : cable;
  search();
  if (sheet) { sheet.closest("details").open = true; sheet.scrollIntoView(); }
}
window.addEventListener("hashchange", go_to_cable);
go_to_cable();
"""


def harness_html(machine: Machine, tables: tuple[Table, ...], day: date | None = None) -> bytes:
    """The page of the harness as UTF-8: the route, the stops, the cutting, tables, build sheets."""
    root, main = _begun(machine, "Harness", day)
    queries = Queries(machine)
    drawing = draw_route(queries)
    if drawing.shapes:
        figure = ElementTree.SubElement(main, "figure")
        figure.append(svg_of(drawing))
    for drawing in draw_stops(queries):
        figure = ElementTree.SubElement(main, "figure")
        figure.append(svg_of(drawing))
        _text(figure, "figcaption", "The stops, drawn without power")
    for drawing in draw_cutting(queries):
        figure = ElementTree.SubElement(main, "figure")
        figure.append(svg_of(drawing))
        _text(figure, "figcaption", "Cutting, to scale")
    for number, table in enumerate(tables):
        if table.rows:
            _table(main, table, number == 0)
    _sheets(main, queries)
    return _finished(root)


def page_html(
    machine: Machine, what: str, tables: tuple[Table, ...], day: date | None = None
) -> bytes:
    """A page of a machine with tables alone, as UTF-8: what it is, the first table open."""
    root, main = _begun(machine, what, day)
    for number, table in enumerate(tables):
        if table.rows:
            _table(main, table, number == 0)
    return _finished(root)


def _begun(
    machine: Machine, what: str, day: date | None
) -> tuple[ElementTree.Element, ElementTree.Element]:
    """The page with its head and its search field, and where its contents go."""
    root = ElementTree.Element("html", {"lang": "en"})
    head = ElementTree.SubElement(root, "head")
    ElementTree.SubElement(head, "meta", {"charset": "utf-8"})
    ElementTree.SubElement(
        head, "meta", {"name": "viewport", "content": "width=device-width, initial-scale=1"}
    )
    policy = "default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'"
    ElementTree.SubElement(
        head, "meta", {"http-equiv": "Content-Security-Policy", "content": policy}
    )
    name = printable(f"{machine.name} {machine.state}".strip())
    # Nothing of a machine stands before it: names come in the body, and in the title after it.
    ElementTree.SubElement(head, "style").text = "@STYLE@"
    _text(head, "title", f"{what} of {name}")
    body = ElementTree.SubElement(root, "body")
    top = ElementTree.SubElement(body, "header")
    _text(top, "h1", name)
    _text(top, "small", stamp_of(machine, day).line)
    ElementTree.SubElement(
        top, "input", {"type": "search", "placeholder": "Label, device, colour …",
                       "aria-label": "Search"},
    )  # fmt: skip
    main = ElementTree.SubElement(body, "main")
    ElementTree.SubElement(body, "script").text = "@SCRIPT@"
    return root, main


def _finished(root: ElementTree.Element) -> bytes:
    """The page as UTF-8, with its style and script."""
    text = ElementTree.tostring(root, encoding="unicode", method="html")
    # Style and script are our own and fixed: put in as they are, not escaped.
    text = text.replace("@STYLE@", STYLE, 1)
    head_part, mark, tail = text.rpartition("@SCRIPT@")
    return f"<!DOCTYPE html>\n{head_part}{SCRIPT if mark else ''}{tail}\n".encode()


def _sheets(main: ElementTree.Element, queries: Queries) -> None:
    """The build sheets of the cables, each where a code on paper finds it."""
    sheets = [sheet for sheet in build_sheets(queries) if len(sheet.rows) > 1]
    if not sheets:
        return
    part = ElementTree.SubElement(main, "details")
    title = _text(part, "summary", "Build sheets ")
    _text(title, "span", str(len(sheets)))
    for sheet in sheets:
        figure = ElementTree.SubElement(part, "figure", {"id": f"sheet-{sheet.cable}"})
        figure.append(svg_of(draw_build_sheet(sheet)))


def _text(parent: ElementTree.Element, tag: str, text: str) -> ElementTree.Element:
    made = ElementTree.SubElement(parent, tag)
    made.text = printable(text)
    return made


def _table(parent: ElementTree.Element, table: Table, is_open: bool) -> None:
    table = table.in_units
    part = ElementTree.SubElement(parent, "details", {"open": "open"} if is_open else {})
    title = _text(part, "summary", f"{table.title} ")
    _text(title, "span", str(len(table.rows)))
    scroll = ElementTree.SubElement(part, "div", {"class": "scroll"})
    made = ElementTree.SubElement(scroll, "table")
    row = ElementTree.SubElement(ElementTree.SubElement(made, "thead"), "tr")
    for name in table.names:
        _text(row, "th", name)
    body = ElementTree.SubElement(made, "tbody")
    for cells in table.rows:
        row = ElementTree.SubElement(body, "tr")
        for column, value in enumerate(cells):
            if isinstance(value, int | float):
                _text(row, "td", f"{value:g}").set("class", "n")
            elif column in table.colour_columns and value:
                _colours(row, value)
            else:
                _text(row, "td", value or "")


def _colours(row: ElementTree.Element, codes: str) -> None:
    """Colours as bars with their letters; a stripe along the lower edge."""
    cell = ElementTree.SubElement(row, "td")
    for code in codes.split():
        bar = _text(cell, "b", code)
        if is_colour(code):
            base, stripe = base_and_stripe(code)
            letters = "#FFFFFF" if base.letters_on_it == "light" else "#25232D"
            edge = f";border-bottom:4px solid {stripe.fill}" if stripe else ""
            bar.set("title", colour_words(code))
            bar.set("style", f"background:{base.fill};color:{letters}{edge}")


def svg_of(drawing: Drawing) -> ElementTree.Element:
    """A drawing as an SVG element."""
    width, height = f"{drawing.width:.0f}", f"{drawing.height:.0f}"
    root = ElementTree.Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg", "width": width, "height": height,
            "viewBox": f"0 0 {width} {height}", "font-family": "system-ui, sans-serif",
        },
    )  # fmt: skip
    for shape in drawing.shapes:
        _svg_shape(root, shape)
    return root


def _svg_shape(root: ElementTree.Element, shape: Shape) -> None:
    if isinstance(shape, Stroke):
        points = " ".join(f"{x:.1f},{y:.1f}" for x, y in shape.points)
        given = {
            "points": points, "fill": "none", "stroke": shape.colour,
            "stroke-width": f"{shape.width:g}",
        }  # fmt: skip
        if shape.dashed:
            given["stroke-dasharray"] = "3 2"
        ElementTree.SubElement(root, "polyline", given)
    elif isinstance(shape, Disc):
        ElementTree.SubElement(
            root,
            "circle",
            {
                "cx": f"{shape.x:.2f}", "cy": f"{shape.y:.2f}", "r": f"{shape.r:.2f}",
                "fill": shape.fill, "stroke": shape.edge, "stroke-width": f"{shape.width:g}",
            },
        )  # fmt: skip
    elif isinstance(shape, Frame):
        box = shape.box
        ElementTree.SubElement(
            root,
            "rect",
            {
                "x": f"{box.x:.1f}", "y": f"{box.y:.1f}", "width": f"{box.width:.1f}",
                "height": f"{box.height:.1f}", "rx": "2", "fill": shape.fill,
                "stroke": shape.edge, "stroke-width": f"{shape.width:g}",
            },
        )  # fmt: skip
    elif isinstance(shape, Code):
        for cell in shape.dark:
            given = {"x": f"{cell.x:.2f}", "y": f"{cell.y:.2f}", "width": f"{cell.width:.2f}",
                     "height": f"{cell.height:.2f}"}  # fmt: skip
            ElementTree.SubElement(root, "rect", given)
    else:
        _svg_words(root, shape)


def _svg_words(root: ElementTree.Element, words: Words) -> None:
    given = {
        "x": f"{words.x:.1f}", "y": f"{words.y:.1f}", "font-size": f"{words.size:g}",
        "fill": words.colour,
    }  # fmt: skip
    if words.bold:
        given["font-weight"] = "bold"
    if words.centred:
        given["text-anchor"] = "middle"
    if words.upwards:
        given["transform"] = f"rotate(-90 {words.x:.1f} {words.y:.1f})"
    _text(root, "text", words.text).attrib.update(given)
