"""The two themes, the fonts and the style sheet made from them."""

from dataclasses import dataclass

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PyQt6.QtWidgets import QApplication

TEXT_PX = 12


@dataclass(frozen=True)
class Theme:
    """The colours of interface.md under their own names, as #RRGGBB."""

    name: str
    paper: str
    sheet: str
    ink: str
    faded: str
    rule: str
    accent: str
    wash: str
    good: str
    doubt: str
    doubt_text: str
    bad: str
    on_accent: str

    def colour(self, name: str) -> QColor:
        """One of the colours by name."""
        return QColor(getattr(self, name))


PAPER = Theme(
    name="paper",
    paper="#F6F3EC",
    sheet="#FFFFFF",
    ink="#25232D",
    faded="#6A6674",
    rule="#DAD5CA",
    accent="#5A4A99",
    wash="#E9E5F4",
    good="#3C7A57",
    doubt="#A9711A",
    doubt_text="#8A5A0E",
    bad="#AE3342",
    on_accent="#FFFFFF",
)
NIGHT = Theme(
    name="night",
    paper="#1D1C22",
    sheet="#26252D",
    ink="#ECE9F1",
    faded="#A29EAD",
    rule="#3B3943",
    accent="#AC9DEA",
    wash="#37324C",
    good="#78BE96",
    doubt="#E0AE57",
    doubt_text="#E0AE57",
    bad="#EC7C86",
    on_accent="#1D1C22",
)


class Appearance:
    """The theme and text scale in force; every view reads them from here when it paints."""

    def __init__(self) -> None:
        self.theme: Theme = PAPER
        self.scale = 1.0
        self.family = ""
        self._fonts: dict[tuple[float, bool], QFont] = {}
        self._colours: dict[str, QColor] = {}

    def change(self, theme: Theme, scale: float, family: str) -> None:
        """Puts a theme, a scale and a font into force."""
        self.theme, self.scale, self.family = theme, scale, family
        self._fonts.clear()
        self._colours.clear()

    def px(self, value: float) -> int:
        """A length of the text at 100 % in pixels at the scale in force."""
        return round(value * self.scale)

    def font(self, px: float = TEXT_PX, bold: bool = False) -> QFont:
        """The interface font at a size given for 100 %; a copy, which may be changed."""
        font = self._fonts.get((px, bold))
        if font is None:
            font = QFont(self.family) if self.family else QFont()
            font.setPixelSize(max(7, round(px * self.scale)))
            font.setBold(bold)
            self._fonts[px, bold] = font
        return QFont(font)

    def colour(self, name: str) -> QColor:
        """A colour of the theme in force; a copy, which may be changed."""
        colour = self._colours.get(name)
        if colour is None:
            colour = self._colours[name] = self.theme.colour(name)
        return QColor(colour)


looks = Appearance()


def desktop_is_dark() -> bool:
    """Whether the desktop's own window colour is dark."""
    return QGuiApplication.palette().color(QPalette.ColorRole.Window).lightness() < 128


def narrow_family() -> str:
    """The system's font; of a wide one its condensed sister, where there is one."""
    family = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont).family()
    families = QFontDatabase.families()
    if family in ("DejaVu Sans", "Sans Serif", "Sans") and "DejaVu Sans Condensed" in families:
        return "DejaVu Sans Condensed"
    return family


def use(theme: Theme, scale: float) -> None:
    """Puts a theme and a text scale into force for the whole application."""
    looks.change(theme, scale, narrow_family())
    application = QApplication.instance()
    if not isinstance(application, QApplication):
        return
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, name in (
        (roles.Window, "paper"),
        (roles.Base, "sheet"),
        (roles.AlternateBase, "paper"),
        (roles.Button, "sheet"),
        (roles.Text, "ink"),
        (roles.WindowText, "ink"),
        (roles.ButtonText, "ink"),
        (roles.PlaceholderText, "faded"),
        (roles.ToolTipBase, "sheet"),
        (roles.ToolTipText, "ink"),
        (roles.Highlight, "wash"),
        (roles.HighlightedText, "ink"),
        (roles.Link, "accent"),
    ):
        palette.setColor(role, theme.colour(name))
    application.setPalette(palette)
    application.setFont(looks.font())
    application.setStyleSheet(style_sheet(theme))


def style_sheet(theme: Theme) -> str:
    """The style of the standard widgets: 3 px corners, hairlines, one accent."""
    t = theme
    pad = looks.px(5)
    return f"""
    QWidget {{ color: {t.ink}; font-size: {looks.px(TEXT_PX)}px; }}
    QMainWindow, QStackedWidget {{ background: {t.paper}; }}
    QLineEdit, QComboBox {{ background: {t.sheet}; border: 1px solid {t.rule};
        border-radius: 3px; padding: {pad}px {pad + 2}px; selection-background-color: {t.wash};
        selection-color: {t.ink}; }}
    QLineEdit:focus, QComboBox:focus {{ border: 2px solid {t.accent};
        padding: {pad - 1}px; }}
    QLineEdit#fact {{ background: transparent; border: none; border-radius: 0;
        border-bottom: 1px dotted {t.accent}; padding: 0 0 1px 0; }}
    QLineEdit#fact:focus {{ border-bottom: 2px solid {t.accent}; background: {t.wash}; }}
    QComboBox#fact {{ background: transparent; border: none; border-radius: 0;
        border-bottom: 1px dotted {t.accent}; padding: 0; }}
    QComboBox QAbstractItemView {{ background: {t.sheet}; border: 1px solid {t.rule};
        selection-background-color: {t.wash}; selection-color: {t.ink}; }}
    QPushButton {{ background: {t.sheet}; border: 1px solid {t.rule}; border-radius: 3px;
        padding: {pad}px {pad + 4}px; }}
    QPushButton:hover, QPushButton:focus {{ border-color: {t.accent}; }}
    QPushButton:pressed {{ background: {t.wash}; }}
    QPushButton:checked {{ background: {t.accent}; color: {t.on_accent};
        border-color: {t.accent}; }}
    QPushButton:disabled {{ color: {t.faded}; background: {t.paper}; }}
    QPushButton#main {{ background: {t.accent}; color: {t.on_accent}; border-color: {t.accent};
        font-weight: bold; }}
    QPushButton#main:disabled {{ background: {t.paper}; color: {t.faded};
        border-color: {t.rule}; }}
    QPushButton#flat {{ background: transparent; border: none; color: {t.accent}; }}
    QPushButton#todo {{ background: transparent; border: none; color: {t.accent};
        text-align: left; padding: 2px 0; }}
    QPushButton#line {{ background: transparent; border: none; color: {t.ink}; text-align: left;
        padding: 2px 4px; }}
    QPushButton#line:hover, QPushButton#line:focus {{ background: {t.rule}; }}
    QPushButton#line:disabled {{ color: {t.faded}; }}
    QPushButton#tab {{ background: transparent; border: none; border-radius: 0;
        border-bottom: 3px solid transparent; padding: {pad}px {pad + 3}px; color: {t.ink}; }}
    QPushButton#tab:checked {{ color: {t.accent}; border-bottom-color: {t.accent}; }}
    QPushButton#tab:focus {{ color: {t.accent}; }}
    QComboBox::drop-down {{ border: none; width: {pad + 11}px; }}
    QComboBox#fact::drop-down {{ width: 12px; }}
    QComboBox::down-arrow {{ width: 0; height: 0; margin-right: {pad}px;
        border-left: 4px solid {t.sheet}; border-right: 4px solid {t.sheet};
        border-top: 5px solid {t.faded}; }}
    QWidget#blank {{ background: {t.sheet}; }}
    QScrollArea, QAbstractScrollArea {{ border: none; background: transparent; }}
    QAbstractScrollArea::corner {{ background: transparent; border: none; }}
    QPlainTextEdit {{ background: {t.sheet}; border: 1px solid {t.rule}; border-radius: 3px;
        selection-background-color: {t.wash}; selection-color: {t.ink}; }}
    QPlainTextEdit:focus {{ border: 2px solid {t.accent}; }}
    QSplitter::handle {{ background: {t.rule}; image: none; }}
    QSplitter::handle:vertical {{ height: 3px; }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {t.rule}; border-radius: 3px; min-height: 24px; }}
    QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
    QScrollBar::handle:horizontal {{ background: {t.rule}; border-radius: 3px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QTableView {{ background: {t.sheet}; gridline-color: {t.rule}; border: none;
        selection-background-color: {t.wash}; selection-color: {t.ink}; }}
    QTableView {{ outline: 0; }}
    QTableView::item:selected, QTableView::item:focus {{ background: {t.wash}; color: {t.ink};
        border: none; }}
    QHeaderView {{ background: {t.paper}; border: none; }}
    QHeaderView::section {{ background: {t.paper}; color: {t.faded}; border: none;
        border-bottom: 1px solid {t.rule}; padding: 3px 6px; font-weight: bold; }}
    QToolTip {{ background: {t.sheet}; color: {t.ink}; border: 1px solid {t.rule}; }}
    QMenu {{ background: {t.sheet}; border: 1px solid {t.rule}; padding: 4px; }}
    QMenu::item {{ padding: {pad}px 18px; }}
    QMenu::item:selected {{ background: {t.wash}; }}
    QFrame#card {{ background: {t.sheet}; border: 1px solid {t.rule}; border-radius: 3px; }}
    QFrame#open {{ background: {t.sheet}; border: 1px solid {t.accent}; border-left: 3px solid
        {t.accent}; border-radius: 3px; }}
    QLabel#faded {{ color: {t.faded}; }}
    QLabel#head {{ font-weight: bold; }}
    QFrame#popup {{ background: {t.sheet}; border: 1px solid {t.accent}; border-radius: 3px; }}
    QListWidget {{ background: {t.sheet}; border: none; outline: none; }}
    QListWidget::item {{ padding: 4px 6px; border-radius: 3px; }}
    QListWidget::item:selected {{ background: {t.wash}; color: {t.ink}; }}
    """
