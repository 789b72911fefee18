"""A figure of Matplotlib that shows itself in a notebook, whatever was said there before."""

from __future__ import annotations

import io

from matplotlib.figure import Figure


class Drawing(Figure):
    """A figure; a notebook shows it as a picture."""

    def _repr_png_(self) -> bytes:
        whole = io.BytesIO()
        self.savefig(whole, format="png")
        return whole.getvalue()
