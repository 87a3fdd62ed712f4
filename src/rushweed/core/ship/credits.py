"""Who made what, under which licence: as text, as Markdown, and as an SPDX document."""

from __future__ import annotations

import hashlib
import re
from typing import Any

import msgspec

from rushweed import __version__
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.pixels.licence import OWN, changes_of, credit_lines, licence_fault

SPDX = "SPDX-2.3"
NEVER = "1970-01-01T00:00:00Z"  # when it was made is not told: the same project gives the same bytes


def credits_text(project: Project) -> str:
    """CREDITS.txt."""
    lines = [f"Pictures in {project.name}", ""]
    for sheet in project.sheets:
        lines += credit_lines(sheet)
    return "\n".join(lines) + "\n"


def credits_markdown(project: Project) -> str:
    """CREDITS.md: one item a sheet, with its link."""
    lines = [f"# Pictures in {_plain(project.name)}", ""]
    for sheet in project.sheets:
        credit = sheet.credit
        title = _plain(credit.title or sheet.name)
        link = credit.link if re.fullmatch(r"https?://[^\s<>()]+", credit.link) else ""
        what = f"[{title}](<{link}>)" if link else f"**{title}**"
        by = f" by {_plain(credit.author)}" if credit.author else ""
        lines.append(f"- {what}{by}, {_plain(credit.licence) or 'licence not stated'}")
        more = [credit.attribution, f"Changes: {changes}" if (changes := changes_of(sheet)) else ""]
        lines += [f"  {_plain(text)}" for text in more if text]
    return "\n".join(lines) + "\n"


def _plain(text: str) -> str:
    """Text in which Markdown finds nothing to set."""
    return re.sub(r"([\\`*_\[\]<>#|!])", r"\\\1", " ".join(text.split()))


def spdx_document(project: Project, shas: dict[str, str]) -> dict[str, Any]:
    """An SPDX 2.3 document (JSON) of the art's licences; `shas` is the SHA-256 of each sheet's picture by the
    sheet's id."""
    packages = [_package(n, sheet, shas.get(sheet.id, "")) for n, sheet in enumerate(project.sheets)]
    own = sorted({name for s in project.sheets for name in OWN.findall(s.credit.licence)})
    body: dict[str, Any] = {
        "spdxVersion": SPDX,
        "dataLicense": "CC0-1.0",
        "SPDXID": "SPDXRef-DOCUMENT",
        "name": f"Art of {project.name}",
        "creationInfo": {"created": NEVER, "creators": [f"Tool: rushweed-{__version__}"]},
        "packages": packages,
        "relationships": [
            {
                "spdxElementId": "SPDXRef-DOCUMENT",
                "relationshipType": "DESCRIBES",
                "relatedSpdxElement": one["SPDXID"],
            }
            for one in packages
        ],
    }
    if own:
        body["hasExtractedLicensingInfos"] = [
            {"licenseId": name, "extractedText": "NOASSERTION", "name": name} for name in own
        ]
    mark = hashlib.sha256(msgspec.json.encode(body)).hexdigest()[:32]
    body["documentNamespace"] = f"urn:rushweed:art:{mark}"
    return body


def _package(number: int, sheet: Sheet, sha: str) -> dict[str, Any]:
    credit = sheet.credit
    licence = credit.licence if credit.licence and not licence_fault(credit.licence) else "NOASSERTION"
    made: dict[str, Any] = {
        "SPDXID": f"SPDXRef-sheet-{number}",
        "name": credit.title or sheet.name,
        "packageFileName": sheet.source.path,
        "downloadLocation": credit.link if re.fullmatch(r"https?://\S+", credit.link) else "NOASSERTION",
        "filesAnalyzed": False,
        "licenseConcluded": licence,
        "licenseDeclared": licence,
        "copyrightText": credit.attribution or "NOASSERTION",
        "supplier": f"Person: {credit.author}" if credit.author else "NOASSERTION",
        "primaryPackagePurpose": "OTHER",
    }
    if sha:
        made["checksums"] = [{"algorithm": "SHA256", "checksumValue": sha}]
    changes = changes_of(sheet)
    if changes:
        made["comment"] = f"Changes: {changes}"
    return made
