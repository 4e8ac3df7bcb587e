"""Words of titles inside a sentence."""


def within_a_sentence(title: str) -> str:
    """A title with its first letter small, but for one that begins with a unit or an abbreviation:
    “Lamp 24 V” is a lamp 24 V, “NTC, 100 k” stays.
    """
    is_word = title[:1].isupper() and (len(title) == 1 or not title[1].isupper())
    return f"{title[:1].lower()}{title[1:]}" if is_word else title
