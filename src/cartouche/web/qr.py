"""QR codes (ISO/IEC 18004) as pictures of our pages."""

import segno


def qr_svg(text: str) -> str:
    return str(segno.make(text, error="m", micro=False).svg_inline(scale=6, border=4, dark="#1D2433", light="#FFFFFF", omitsize=True))
