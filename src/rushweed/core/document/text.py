"""Words that every part of the project says alike."""


def many(number: int, what: str) -> str:
    """A number with its word: "1 tile", "2,000 tiles"."""
    return f"1 {what}" if number == 1 else f"{number:,} {what}s"


def table_field(name: str) -> str:
    """A name as a field of a table: none that a spreadsheet would take for a formula."""
    return f"'{name}" if name[:1] in ("=", "+", "-", "@", "'", "\t", "\r") else name
