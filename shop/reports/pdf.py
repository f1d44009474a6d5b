"""A page on paper, in the look of the build sheet."""

from pathlib import Path
from typing import Final

from django.conf import settings

_PRINT_STYLES: Final = Path(settings.ROOT) / "shop" / "static" / "lash" / "print.css"


def as_pdf(text: str) -> bytes:
    """A whole HTML page as PDF."""
    # Imported here: it takes a third of a second that no other page should pay for.
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration

    fonts = FontConfiguration()
    styles = CSS(filename=str(_PRINT_STYLES), font_config=fonts)
    page = HTML(string=text, base_url=str(_PRINT_STYLES.parent))
    pdf: bytes = page.write_pdf(stylesheets=[styles], font_config=fonts)
    return pdf
