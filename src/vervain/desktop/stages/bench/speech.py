"""A step read aloud by the desktop's own speech service, where there is one."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PyQt6.QtTextToSpeech import QTextToSpeech


class Speech:
    """Says texts, one in place of the other."""

    def __init__(self) -> None:
        self._engine: QTextToSpeech | None = None
        self._looked = False

    def say(self, text: str) -> bool:
        """Says a text; False where the desktop has no speech service."""
        engine = self._found()
        if engine is None:
            return False
        engine.stop()
        engine.say(text)
        return True

    def _found(self) -> "QTextToSpeech | None":
        if self._looked:
            return self._engine
        self._looked = True
        try:
            from PyQt6.QtTextToSpeech import QTextToSpeech
        except ImportError:
            # Its sound libraries are not part of every desktop.
            return None
        engines = [name for name in QTextToSpeech.availableEngines() if name != "mock"]
        if engines:
            self._engine = QTextToSpeech(engines[0])
        return self._engine
