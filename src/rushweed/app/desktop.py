"""Rushweed among a person's other applications: menu entry, project type, icon, man page, completions.

Sources: the freedesktop.org specifications Desktop Entry 1.5, Shared MIME-info 0.21, Icon Theme 0.13 and XDG
Base Directory 0.8.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

ASSETS = Path(__file__).parents[1] / "assets" / "desktop"
ICON_PX = (48, 128, 256)
UPDATERS = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))


class Option(NamedTuple):
    """One option of a command: how it is written, what it does."""

    names: tuple[str, ...]
    help: str


class Command(NamedTuple):
    """A command of the command line, for the man page and the completions."""

    name: str
    help: str
    arguments: tuple[str, ...]
    options: tuple[Option, ...]


def data_home() -> Path:
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def config_home() -> Path:
    return Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config")


def starter() -> str:
    """What starts this Rushweed, as the Exec key of a desktop entry wants it quoted."""
    script = Path(sys.executable).parent / "rushweed"
    words = [str(script)] if script.exists() else [sys.executable, "-m", "rushweed"]
    return " ".join(quoted(word) for word in words)


def quoted(word: str) -> str:
    for letter in ("\\", '"', "`", "$"):
        word = word.replace(letter, "\\" + letter)
    return '"' + word.replace("%", "%%").replace("\\", "\\\\") + '"'


def entry() -> str:
    """The desktop entry."""
    rows = {
        "Type": "Application", "Version": "1.5", "Name": "Rushweed", "GenericName": "2D game workbench",
        "Comment": "From a picture to a level that ships", "Exec": f"{starter()} open %F", "Icon": "rushweed",
        "Terminal": "false", "Categories": "Development;Graphics;2DGraphics;",
        "MimeType": "application/x-rushweed-project+json;image/png;image/bmp;image/webp;",
        "Keywords": "sprite;tileset;level;animation;game;", "StartupWMClass": "rushweed",
    }  # fmt: skip
    return "[Desktop Entry]\n" + "".join(f"{key}={value}\n" for key, value in rows.items())


def files(commands: list[Command]) -> Iterator[tuple[Path, bytes]]:
    """Every file that is installed, and what it holds."""
    data = data_home()
    yield data / "applications" / "rushweed.desktop", entry().encode()
    yield data / "mime" / "packages" / "rushweed-project.xml", (ASSETS / "rushweed-project.xml").read_bytes()
    icons = data / "icons" / "hicolor"
    svg = (ASSETS / "rushweed.svg").read_bytes()
    yield icons / "scalable" / "apps" / "rushweed.svg", svg
    for px in ICON_PX:
        yield icons / f"{px}x{px}" / "apps" / "rushweed.png", drawn(svg, px)
    yield data / "metainfo" / "rushweed.metainfo.xml", (ASSETS / "rushweed.metainfo.xml").read_bytes()
    yield data / "man" / "man1" / "rushweed.1", man_page(commands).encode()
    yield data / "bash-completion" / "completions" / "rushweed", for_bash(commands).encode()
    yield data / "zsh" / "site-functions" / "_rushweed", for_zsh(commands).encode()
    yield config_home() / "fish" / "completions" / "rushweed.fish", for_fish(commands).encode()


def drawn(svg: bytes, px: int) -> bytes:
    """The icon as a PNG of so many px a side."""
    from PyQt6.QtCore import QBuffer, QByteArray, QIODevice
    from PyQt6.QtGui import QImage, QPainter
    from PyQt6.QtSvg import QSvgRenderer

    image = QImage(px, px, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(0)
    painter = QPainter(image)
    QSvgRenderer(QByteArray(svg)).render(painter)
    painter.end()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return buffer.data().data()


def install(commands: list[Command]) -> list[Path]:
    """Write them all for this user; returns their paths. Raises OSError."""
    written = []
    for path, data in files(commands):
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
        written.append(path)
    _update()
    return written


def remove(commands: list[Command]) -> list[Path]:
    """Take out again what `install` wrote, and folders that are left empty; returns the paths."""
    gone = []
    for path, _data in files(commands):
        if path.exists():
            path.unlink()
            gone.append(path)
        for folder in path.parents:
            if folder in (data_home(), config_home()) or not folder.is_dir() or any(folder.iterdir()):
                break
            folder.rmdir()
    _update()
    return gone


def _update() -> None:
    """Let the desktop see what has changed, where it keeps lists of its own."""
    for name, folder in UPDATERS:
        tool, place = shutil.which(name), data_home() / folder
        if tool and place.is_dir():
            subprocess.run([tool, str(place)], check=False, capture_output=True, timeout=60)


# -- man page and completions ------------------------------------------------------------------------------


def man_page(commands: list[Command]) -> str:
    """rushweed(1) in the man macros."""
    lines = [
        ".TH RUSHWEED 1", ".SH NAME", r"rushweed \- from a picture to a level that ships", ".SH SYNOPSIS",
        ".B rushweed", "[PROJECT | PICTURE ...]", ".br", ".B rushweed", "COMMAND [ARGUMENTS] [OPTIONS]",
        ".SH DESCRIPTION",
        "Without a command the window opens: on a project, on pictures that are taken into the one opened",
        "last, or on that one. All else does the same work from a script.", ".SH COMMANDS",
    ]  # fmt: skip
    for command in commands:
        lines += [".TP", rf"\fB{_roff(command.name)}\fR {_roff(' '.join(command.arguments))}"]
        lines.append(_roff(command.help) or r"\&")
        for option in command.options:
            lines += [
                ".RS",
                ".TP",
                rf"\fB{_roff(', '.join(option.names))}\fR",
                _roff(option.help) or r"\&",
                ".RE",
            ]
    lines += [
        ".SH EXIT STATUS", "0 done, 1 findings, 2 an error, told in one sentence on standard error.",
        ".SH FILES", "A project is a folder that holds rushweed.json.", "",
    ]  # fmt: skip
    return "\n".join(lines)


def _roff(text: str) -> str:
    text = " ".join(text.split()).replace("\\", r"\e").replace("-", r"\-")
    return r"\&" + text if text[:1] in (".", "'") else text


def for_bash(commands: list[Command]) -> str:
    names = " ".join(command.name for command in commands)
    cases = "\n".join(
        f'    {c.name}) words="{" ".join(n for o in c.options for n in o.names)}" ;;' for c in commands
    )
    return f"""# bash completion for rushweed
_rushweed() {{
  local cur="${{COMP_WORDS[COMP_CWORD]}}" words=""
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "{names}" -- "$cur") $(compgen -f -- "$cur"))
    return
  fi
  case "${{COMP_WORDS[1]}}" in
{cases}
  esac
  COMPREPLY=($(compgen -W "$words" -- "$cur"))
  case "$cur" in
    -*) ;;
    *) COMPREPLY+=($(compgen -f -- "$cur")) ;;
  esac
}}
complete -o filenames -F _rushweed rushweed
"""


def for_zsh(commands: list[Command]) -> str:
    def said(text: str) -> str:
        for letter, instead in (("'", "'\\''"), (":", "\\:"), ("[", "("), ("]", ")")):
            text = text.replace(letter, instead)
        return " ".join(text.split())

    def option(name: str, words: str) -> str:
        return f"'{name}[{said(words)}]'"

    named = "\n".join(f"    '{c.name}:{said(c.help)}'" for c in commands)
    cases = "\n".join(
        f"    {c.name}) _arguments {' '.join(option(n, o.help) for o in c.options for n in o.names)} "
        "'*:file:_files' ;;"
        for c in commands
    )
    return f"""#compdef rushweed
_rushweed() {{
  local -a commands
  commands=(
{named}
  )
  if (( CURRENT == 2 )); then
    _describe command commands
    _files
    return
  fi
  local command=$words[2]
  shift words
  (( CURRENT-- ))
  case $command in
{cases}
    *) _files ;;
  esac
}}
_rushweed "$@"
"""


def _fish_word(name: str) -> str:
    return f"-l {name[2:]}" if name.startswith("--") else f"-s {name[1:]}" if name[0] == "-" else f"-a {name}"


def for_fish(commands: list[Command]) -> str:
    def said(text: str) -> str:
        return " ".join(text.split()).replace("\\", "\\\\").replace("'", "\\'")

    lines = ["# fish completion for rushweed"]
    for c in commands:
        lines.append(f"complete -c rushweed -n __fish_use_subcommand -a {c.name} -d '{said(c.help)}'")
        for option in c.options:
            names = " ".join(_fish_word(name) for name in option.names)
            seen = f"'__fish_seen_subcommand_from {c.name}'"
            lines.append(f"complete -c rushweed -n {seen} {names} -d '{said(option.help)}'")
    return "\n".join(lines) + "\n"
