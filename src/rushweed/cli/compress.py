"""`rushweed compress`: write a picture as a texture, and say what the compression costs and spoils."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated

import typer

from rushweed.cli.common import AsJson, app, errors_told, transfer_named
from rushweed.core.document.errors import EditError, file_reason


@app.command()
def compress(
    image: Path,
    codec: Annotated[str, typer.Option(metavar="NAME", help="none, indexed, bc1, bc3, bc7 or etc2.")],
    out: Annotated[Path, typer.Option("--out", metavar="FILE.ktx2", help="Where to; a PNG if indexed.")],
    mipmaps: Annotated[bool, typer.Option("--mipmaps", help="With all mipmaps.")] = False,
    transfer: Annotated[str, typer.Option(metavar="NAME", help="srgb, or linear for normal maps.")] = "srgb",
    as_json: AsJson = False,
) -> None:
    """Write a picture as a texture, and say what the compression costs and spoils."""
    from rushweed.core.pixels.read import read_picture
    from rushweed.core.store.files import write_file
    from rushweed.core.tune.codec.compress import (
        EXACT,
        codec_named,
        coded,
        container,
        decoded,
        memory_bytes,
        png_bytes,
        size_rules,
        spoiled,
    )
    from rushweed.core.tune.ktx2 import write_ktx2

    with errors_told():
        name = codec_named(codec)
        ending = ".png" if name == "indexed" else ".ktx2"
        if out.suffix.lower() != ending:
            raise EditError(
                f"{name} is written as a {ending} file, not as {out.name}.", f"End it on {ending}."
            )
        rgba = read_picture(image).rgba
        size = (rgba.shape[1], rgba.shape[0])
        if name == "indexed":
            data, made = png_bytes(rgba, True), decoded(coded(rgba, name), name, size)
        else:
            texture = container(rgba, name, mipmaps, transfer=transfer_named(transfer))
            data, made = write_ktx2(texture), decoded(texture.levels[0], name, size)
        try:
            write_file(out, data)
        except OSError as error:
            raise EditError(f"{out} could not be written: {file_reason(error)}.", "Choose another.") from None
        lost = spoiled(rgba, made)
        rules = size_rules(size, name, mipmaps)
    memory = memory_bytes(size, name, mipmaps)
    psnr = None if lost.psnr >= EXACT else round(lost.psnr, 2)
    if as_json:
        report = {
            "codec": name, "size": list(size), "file_bytes": len(data), "memory_bytes": memory, "psnr": psnr,
            "exact": psnr is None, "worst_block": list(lost.worst), "worst_psnr": round(lost.worst_psnr, 2),
            "size_rules": rules,
        }  # fmt: skip
        print(json.dumps(report))
        return
    for rule in rules:
        print(f"rushweed: {rule}", file=sys.stderr)
    quality = "exact" if psnr is None else f"PSNR {psnr:.2f} dB"
    print(f"{out}: {len(data)} bytes, {memory} on the card, {quality}")
