"""Pages on paper: the same page as PDF, its charts as lines and not as pixels. WeasyPrint does it; a second or so."""

from pathlib import Path

import numpy as np
import numpy.typing as npt

from pemlo.core.errors import FileError
from pemlo.core.persistence.whole_files import write_whole_bytes

U8 = npt.NDArray[np.uint8]
FONTS = Path(__file__).parents[1] / "fonts"
_FACES = (("Inter-Regular.otf", 400), ("Inter-Medium.otf", 500), ("Inter-SemiBold.otf", 600))


def pdf_of(page: str) -> bytes:
    """Return a page as PDF. Nothing outside of the page is fetched: it holds all that it shows.

    Raises
    ------
    FileError
        If the libraries that draw text are not there.
    """
    try:
        from weasyprint import CSS, HTML  # noqa: PLC0415 - heavy, and only where paper is made
        from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415 - as above
        from weasyprint.urls import URLFetcher  # noqa: PLC0415 - as above
    except OSError as error:  # it loads Pango
        hint = "Install the Debian packages libpango-1.0-0, libpangoft2-1.0-0 and libharfbuzz-subset0; HTML needs none."
        raise FileError("PDF needs a library that is not there.", hint) from error
    fonts = FontConfiguration()
    faces = "".join(
        f"@font-face{{font-family:Inter;font-weight:{weight};src:url({(FONTS / name).as_uri()})}}"
        for name, weight in _FACES
    )
    # The page holds what it shows, and only our own style may fetch files: those of the fonts.
    style = CSS(string=faces, font_config=fonts, url_fetcher=URLFetcher(allowed_protocols=("file",)))
    page_ = HTML(string=page, url_fetcher=URLFetcher(allowed_protocols=("data",)))
    made: bytes = page_.write_pdf(stylesheets=[style], font_config=fonts)
    return made


def write_pdf(page: str, path: Path) -> None:
    """Write a page as PDF.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    write_whole_bytes(pdf_of(page), path)


def pages_of(data: bytes, dots_an_inch: float = 96.0) -> tuple[U8, ...]:
    """Return the pages of a PDF as pictures, (H, W, 3) display codes each.

    Parameters
    ----------
    data : bytes
    dots_an_inch : float
        96 shows paper at its size on a usual screen.
    """
    import pypdfium2  # noqa: PLC0415 - only where paper is looked at

    document = pypdfium2.PdfDocument(data)
    try:
        pages = []
        for page in document:
            made = page.render(scale=dots_an_inch / 72, rev_byteorder=True).to_numpy()
            pages.append(np.ascontiguousarray(made[..., :3]))
        return tuple(pages)
    finally:
        document.close()
