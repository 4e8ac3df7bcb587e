"""What the window looks like is kept from session to session: size, stage, zoom, panes."""

from vervain.desktop.window import Window
from vervain.rules.finding import STAGES

USUAL = (1280, 800)
SMALLEST = (960, 600)


def restore_view(window: Window) -> None:
    """Gives a window that is not shown yet the size, stage, zoom and panes of the last session; it
    is never larger than the screen.
    """
    settings = window.settings
    screen = window.screen()
    room = screen.availableSize() if screen is not None else None
    width, height = (
        min(kept, limit)
        for kept, limit in zip(
            settings.lengths("window/size", USUAL),
            (room.width(), room.height()) if room is not None else USUAL,
            strict=True,
        )
    )
    window.setMinimumSize(min(SMALLEST[0], width), min(SMALLEST[1], height))
    window.resize(width, height)
    zoom = settings.kept("window/zoom", 1.0)
    window.ports.view.set_zoom(zoom if isinstance(zoom, float) else 1.0)
    stage = settings.kept("window/stage", "")
    if stage in STAGES and window.session.machine.devices:
        window.show_stage(stage)
    if settings.kept("window/maximized", 0.0) == 1.0:
        window.showMaximized()


def keep_view(window: Window) -> None:
    """Keeps what the window looks like now."""
    settings = window.settings
    if window.isMaximized():
        settings.keep("window/maximized", 1.0)
    else:
        settings.keep("window/maximized", 0.0)
        settings.keep("window/size", f"{window.width()} {window.height()}")
    settings.keep("window/stage", window.stage)
    settings.keep("window/zoom", window.ports.view.zoom)
    for name in ("supply", "stops", "harness", "bench"):
        if name in window.__dict__:
            sizes = getattr(window, name).split.sizes()
            settings.keep(f"panes/{name}", f"{sizes[0]} {sizes[1]}")
