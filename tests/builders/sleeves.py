"""A sleeve over an arm of two bones."""

from builders.making import bone, part, puppet
from gaitwire.core.deform.skin import make_skin, part_body
from gaitwire.core.puppet.art import Art, Shape, Solid
from gaitwire.core.puppet.soften import soften

SLEEVE = Art(nodes=(Shape(d="M0 -10L120 -10L120 10L0 10Z", fill=Solid(color="#ccaaaa")),), box=(0, -10, 120, 10))


GRAIN = 5.0


def arm(*pins, reach=1.0):
    made = puppet(
        [bone("upper", length=60, angle=0), bone("fore", "upper", 60, 0, length=60, angle=0, reach=reach)],
        [part("s", "upper", soft=True, bends_with=("fore",))],
    )
    made = made.model_copy(update={"pins": pins})
    art = soften(SLEEVE, GRAIN)
    return made, make_skin(made, made.parts[0], part_body(made, made.parts[0], [art], {}.__getitem__, GRAIN))
