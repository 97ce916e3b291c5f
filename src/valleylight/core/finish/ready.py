"""The looks that ship."""

from __future__ import annotations

from valleylight.core.project.description import Look
from valleylight.core.treatments import Treatment
from valleylight.core.treatments.bloom import Bloom
from valleylight.core.treatments.contrast import Contrast
from valleylight.core.treatments.exposure import Exposure
from valleylight.core.treatments.flat_tone import FlatTone
from valleylight.core.treatments.glare import Glare
from valleylight.core.treatments.glow import SmallGlow
from valleylight.core.treatments.gouache import Gouache
from valleylight.core.treatments.grain import Grain
from valleylight.core.treatments.hatching import Hatching
from valleylight.core.treatments.haze import Haze
from valleylight.core.treatments.hue_ranges import HueRanges
from valleylight.core.treatments.ink_lines import InkLines
from valleylight.core.treatments.limits import Limits
from valleylight.core.treatments.local_contrast import LocalContrast
from valleylight.core.treatments.local_tone import LocalTone
from valleylight.core.treatments.saturation import Saturation
from valleylight.core.treatments.sharpen import Sharpen
from valleylight.core.treatments.split_tone import SplitTone
from valleylight.core.treatments.star import Star
from valleylight.core.treatments.tone_curve import ToneCurve
from valleylight.core.treatments.vibrance import Vibrance
from valleylight.core.treatments.vignette import Vignette
from valleylight.core.treatments.watercolour import Watercolour
from valleylight.core.treatments.white_balance import WhiteBalance


def _look(key: str, name: str, *treatments: Treatment) -> Look:
    return Look(key=key, name=name, treatments=tuple(sorted(treatments, key=lambda t: t.PLACE)))


#: Own inventions, each for a kind of picture that studios are asked for.
READY_LOOKS = (
    _look("as-measured", "As measured", ToneCurve(shoulder=0.0, toe=0.0, stops_above=0.5)),
    _look("print", "Print", ToneCurve(shoulder=0.6, toe=0.2), Contrast(amount=0.1), Sharpen(amount=0.4)),
    _look("north-light", "North light", WhiteBalance(kelvin=5600), ToneCurve(shoulder=0.8, toe=0.05, stops_above=4),
          LocalTone(shadows=0.6, highlights=-0.5), Saturation(amount=-0.12)),
    _look("late-sun", "Late sun", WhiteBalance(kelvin=8200), Bloom(amount=0.06, radius_percent=4), ToneCurve(shoulder=0.7, toe=0.25),
          SplitTone(shadow_hue=225, shadow_amount=0.1, light_hue=38, light_amount=0.14), Vibrance(amount=0.2)),
    _look("blue-hour", "Blue hour", WhiteBalance(kelvin=5200), SmallGlow(amount=0.2, reach_percent=4), ToneCurve(shoulder=0.75, toe=0.3),
          SplitTone(shadow_hue=225, shadow_amount=0.2, light_hue=35, light_amount=0.12, balance=0.55), Contrast(amount=0.1)),
    _look("lamplight", "Lamplight", WhiteBalance(kelvin=3600), Glare(age=35), SmallGlow(amount=0.15), ToneCurve(shoulder=0.8, toe=0.3, stops_above=4),
          LocalTone(shadows=0.5, highlights=-0.7)),
    _look("white-model", "White model", ToneCurve(shoulder=0.5, toe=0.0), Saturation(amount=-1.0), LocalContrast(amount=0.35),
          Limits(gamma=1.12)),
    _look("graphite", "Graphite", ToneCurve(shoulder=0.5, toe=0.5), Saturation(amount=-1.0), Contrast(amount=0.3),
          Grain(iso=800, size=1.2, coloured=0.0), Vignette(stops=-0.4)),
    _look("mist", "Mist", Haze(visibility_m=120, stops=-0.8, kelvin=7200), ToneCurve(shoulder=0.8, toe=0.0), Contrast(amount=-0.1),
          Saturation(amount=-0.2)),
    _look("planting", "Planting", ToneCurve(shoulder=0.65, toe=0.2),
          HueRanges(green_turn=-12, green_full=-0.15, yellow_turn=-6, yellow_full=-0.1, blue_full=-0.2), Vibrance(amount=0.15)),
    _look("old-print", "Old print", WhiteBalance(kelvin=7000), ToneCurve(shoulder=0.7, toe=0.15), Limits(out_black_percent=7, out_white_percent=96),
          SplitTone(shadow_hue=200, shadow_amount=0.12, light_hue=45, light_amount=0.18), Grain(iso=320), Vignette(stops=-0.5)),
    _look("night-walk", "Night walk", Exposure(stops=0.4), Star(blades=7, f_number=16), Glare(age=30), ToneCurve(shoulder=0.85, toe=0.4, stops_above=5),
          Contrast(amount=0.15), Saturation(amount=-0.1)),
    _look("washes", "Ink and wash", ToneCurve(shoulder=0.6, toe=0.05), LocalTone(shadows=0.4), Watercolour(), InkLines(width=1.1, bends=0.5, margin=3.0)),
    _look("pencil", "Pencil", ToneCurve(shoulder=0.6, toe=0.1), LocalTone(shadows=0.3, highlights=-0.3), Hatching(), InkLines(width=0.9, ink=0.75)),
    _look("body-colour", "Gouache", ToneCurve(shoulder=0.6, toe=0.05), LocalTone(shadows=0.4), Vibrance(amount=0.2), Gouache()),
    _look("outline", "Outline on a tone", ToneCurve(shoulder=0.6, toe=0.1), FlatTone(strength=0.85, shade=0.35), InkLines(width=1.2)),
)  # fmt: skip
