# SPDX-License-Identifier: GPL-3.0-or-later
"""What ISO 15930-7 (PDF/X-4) asks of a file, from the standard's list, apart from what writes one."""

import re

import pikepdf

DEVICE_SPACES = {"/DeviceCMYK", "/DeviceGray"}


def missed_of_the_standard(pdf: pikepdf.Pdf) -> list[str]:
    """List what a file lacks."""
    root, info = pdf.Root, pdf.docinfo
    with pdf.open_metadata() as xmp:
        told = {key: str(xmp.get(key, "")) for key in (
            "pdfxid:GTS_PDFXVersion", "pdf:Trapped", "xmp:CreateDate", "xmp:ModifyDate", "xmp:MetadataDate", "dc:title",
            "xmpMM:DocumentID", "xmpMM:VersionID", "xmpMM:RenditionClass", "xmp:CreatorTool", "pdf:Producer",
        )}  # fmt: skip
    intents = [one for one in root.get("/OutputIntents", []) if one.S == pikepdf.Name.GTS_PDFX]
    lacks = {
        "version 1.6": pdf.pdf_version < "1.6",
        "an identifier of the file": len(pdf.trailer.get("/ID", [])) != 2,
        "no encryption": pdf.is_encrypted,
        "its version in the metadata": told["pdfxid:GTS_PDFXVersion"] != "PDF/X-4",
        "every entry of the metadata": not all(told.values()),
        "a document identifier": re.match(r"uuid:|xmp\.did:", told["xmpMM:DocumentID"]) is None,
        "Trapped, true or false": str(info.get("/Trapped")) not in ("/True", "/False"),
        "one Trapped": str(info.get("/Trapped", "/?"))[1:] != told["pdf:Trapped"],
        "dates": not all(re.match(r"D:\d{14}", str(info.get(key, ""))) for key in ("/CreationDate", "/ModDate")),
        "one output intent": len(intents) != 1,
        "the profile of its press": not intents or int(intents[0].DestOutputProfile.N) != 4,
        "nothing that acts": "/AA" in root or "/OpenAction" in root or "/JavaScript" in root.get("/Names", {}),
    }
    for number, page in enumerate(pdf.pages, 1):
        media, bleed, trim = ([float(v) for v in page.obj[key]] for key in ("/MediaBox", "/BleedBox", "/TrimBox"))
        lacks[f"boxes within each other on page {number}"] = not (
            all(a <= b for a, b in zip(media[:2], bleed[:2], strict=True))
            and all(a <= b for a, b in zip(bleed[:2], trim[:2], strict=True))
            and all(a >= b for a, b in zip(media[2:], bleed[2:], strict=True))
            and all(a >= b for a, b in zip(bleed[2:], trim[2:], strict=True))
        )
        lacks[f"one of TrimBox and ArtBox on page {number}"] = "/ArtBox" in page.obj
        for name, thing in page.obj.Resources.XObject.items():
            space = thing.get("/ColorSpace")
            plain = space is None or str(space) in DEVICE_SPACES or str(space[0]) in ("/DeviceN", "/Separation")
            lacks[f"colours of the press in {name} on page {number}"] = not plain
            lacks[f"no LZW in {name} on page {number}"] = "/LZWDecode" in str(thing.get("/Filter"))
            if space is not None and str(space)[:1] != "/" and str(space[0]) == "/DeviceN":
                named = [str(one) for one in space[1] if str(one)[1:] not in ("Cyan", "Magenta", "Yellow", "Black")]
                lacks[f"every ink told in {name} on page {number}"] = set(named) != set(space[4].Colorants.keys())
    return [what for what, lacking in lacks.items() if lacking]
