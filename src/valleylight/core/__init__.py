"""All computation of Valleylight, usable alone from Python:

from valleylight.core import finish, project, render
loaded = project.load("tarn-mill.zip")
film = render(loaded, "long-view", "june-morning", 640, 360, samples=16, seed=1)
picture = finish.apply(film, loaded.description.looks[0])
"""

from __future__ import annotations

from typing import Any


def __getattr__(name: str) -> Any:
    """`render` and `Film` load the compiled kernels, so they are imported when first used."""
    if name == "render":
        from valleylight.core.trace.render import render

        return render
    if name == "Film":
        from valleylight.core.film import Film

        return Film
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
