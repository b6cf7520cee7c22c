"""What weighs a set's stands down, and has to be brought for it."""

from evrant.core.mechanics.supports import counterweight_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Part
from evrant.core.studio.room import value


def hung_weights(scene: Scene) -> float:
    """Weights that hang in a set at once, low down or on tails of booms [kg]; a counterweight that comes with its boom
    is not brought."""
    plan = scene.plan
    on_lights = sum((light.place.bag or 0.0) + _beyond_its_own(light) for light in scene.lights)
    on_props = sum(prop.hung for prop in plan.props)
    return on_lights + on_props + (plan.camera.bag or 0.0) + 2 * (plan.background.bag or 0.0)


def hung_together(scene: Scene) -> float:
    """Weights that hang in a set and in those that stand beside it [kg]."""
    return sum(hung_weights(part) for part in (scene, *scene.beside))


def _beyond_its_own(light: Light) -> float:
    own = (value(light.stand.counterweight) if light.stand else None) or 0.0
    return max(counterweight_of(light) - own, 0.0)


def weights_of(scene: Scene) -> list[Part]:
    """Weights of the kit, owned or planned."""
    return [one for one in scene.gear.values() if isinstance(one, Part) and one.use == "weight" and one.at_hand]


def weight_of(scene: Scene) -> float:
    """What the weights of the kit weigh together, those nobody has weighed left out [kg]."""
    return sum(one.quantity * (value(one.mass) or 0.0) for one in weights_of(scene))
