"""The one error that people see: what is wrong, and what to do about it."""

from __future__ import annotations


class RushweedError(Exception):
    """Something a person can put right. `problem` and `cure` are one sentence each."""

    def __init__(self, problem: str, cure: str = "") -> None:
        self.problem, self.cure = shortened(problem), shortened(cure)
        super().__init__(f"{self.problem} {self.cure}".strip())

    def __reduce__(self) -> tuple[type[RushweedError], tuple[str, str]]:
        return type(self), (self.problem, self.cure)  # as it comes from another process


def shortened(text: str, longest_word: int = 120, longest: int = 500) -> str:
    """A sentence on one line that names from files cannot break, stretch or hide."""
    text = "".join(c if c.isprintable() else " " for c in text.encode(errors="replace").decode())
    words = [
        w if len(w) <= longest_word else f"{w[: longest_word - 20]}...{w[-16:]}" for w in text.split(" ")
    ]
    text = " ".join(words)
    return text if len(text) <= longest else f"{text[: longest - 60]} ... {text[-50:]}"


class PictureError(RushweedError):
    """A picture that cannot be read or is not allowed."""


class CutError(RushweedError):
    """A cut that the sheet does not allow."""


class EditError(RushweedError):
    """An edit that would leave the project wrong."""


class NothingSolidError(EditError):
    """A level from the side in which nothing holds anybody."""


class StoreError(RushweedError):
    """A project folder that cannot be read, written or locked."""


def file_reason(error: OSError) -> str:
    """The plain reason of an operating-system error, such as "no space is left"."""
    import errno

    known = {
        errno.ELOOP: "it is a link, or leads round in a circle",
        errno.ENXIO: "it is no plain file",
        errno.ENOENT: "there is no such file",
        errno.EACCES: "you may not open it",
        errno.EPERM: "you may not open it",
        errno.ENOSPC: "no space is left on the disk",
        errno.EDQUOT: "your share of the disk is used up",
        errno.EROFS: "the disk can only be read",
        errno.EISDIR: "it is a folder",
        errno.ENOTDIR: "a part of its path is a file",
        errno.ENAMETOOLONG: "its name is too long",
        errno.EFBIG: "the file would be too large",
        errno.EIO: "the disk reports a fault",
    }
    return known.get(error.errno or 0, (error.strerror or str(error)).lower())
