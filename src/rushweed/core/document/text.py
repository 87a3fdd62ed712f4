"""Words that every part of the project says alike."""


def many(number: int, what: str) -> str:
    """A number with its word: "1 tile", "2,000 tiles"."""
    return f"1 {what}" if number == 1 else f"{number:,} {what}s"
