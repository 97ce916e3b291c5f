"""The project description: models, their checks, and the archive."""

from valleylight.core.project.air import Air, LightNet
from valleylight.core.project.archive import LoadedProject, assets_of, load, save
from valleylight.core.project.build import build, name_of
from valleylight.core.project.cutout import CutOut
from valleylight.core.project.description import (
    EmittingShape,
    Fixture,
    FixtureKind,
    Layer,
    Lens,
    Look,
    Occasion,
    Opening,
    Placement,
    Project,
    Site,
    Sky,
    Stage,
    Sun,
    View,
)
from valleylight.core.project.sequence import LightCue, Sequence, Station
from valleylight.core.project.sky import PictureSky
from valleylight.core.project.surface import ObjectFlags, Surface
from valleylight.core.treatments.bloom import Bloom
from valleylight.core.treatments.contrast import Contrast
from valleylight.core.treatments.exposure import Exposure
from valleylight.core.treatments.saturation import Saturation
from valleylight.core.treatments.tone_curve import ToneCurve
from valleylight.core.treatments.white_balance import WhiteBalance

__all__ = [
    "Air",
    "Bloom",
    "Contrast",
    "CutOut",
    "EmittingShape",
    "Exposure",
    "Fixture",
    "FixtureKind",
    "Layer",
    "Lens",
    "LightCue",
    "LightNet",
    "LoadedProject",
    "Look",
    "ObjectFlags",
    "Occasion",
    "Opening",
    "PictureSky",
    "Placement",
    "Project",
    "Saturation",
    "Sequence",
    "Site",
    "Sky",
    "Stage",
    "Station",
    "Sun",
    "Surface",
    "ToneCurve",
    "View",
    "WhiteBalance",
    "assets_of",
    "build",
    "load",
    "name_of",
    "save",
]
