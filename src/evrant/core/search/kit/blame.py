"""Which slots of a recipe a failing line is about."""

from evrant.core.base.margins import Margin
from evrant.core.search.kit.case import Case, Recipe


def is_small(slot: str) -> bool:
    """Joints and rings take no room."""
    return slot.endswith((".joint", ".ring"))


def slots_of(line: Margin, recipe: Recipe) -> set[str]:
    """Slots a line of the ledger blames: those of one unit for what its place does not change, else everything."""
    path = next((one for one in line.about if one.startswith("sets/")), "")
    unit = path.split("/")[2:]
    whole = {slot for slot in recipe if not is_small(slot)}
    if line.line.blames == "cards":
        return {slot for slot in recipe if slot.startswith("card-")} or whole
    if unit[:1] == ["background"] and line.code.startswith("support."):
        return {"body", "lens", "backdrop", "holder"} & set(recipe)
    if unit[:1] == ["camera"] and line.code.startswith(("support.", "trigger.")):
        return {"body", "lens", "tripod"} & set(recipe)
    if unit[:1] != ["lights"] or line.line.blames == "everything":
        return whole
    joined = line.line.blames == "joint and light"
    return {slot for slot in recipe if slot.startswith(f"{unit[1]}.") and (joined or not is_small(slot))}


def groups(case: Case, recipe: Recipe) -> list[tuple[str, ...]]:
    """Things that can be taken out of a set: each light, the background, table, boards, the camera's support."""
    found: list[tuple[str, ...]] = [("backdrop", "holder")] if "backdrop" in recipe else []
    for name in case.lights():
        found.append(tuple(slot for slot in recipe if slot.startswith(f"{name}.")))
    found += [(slot,) for slot in recipe if slot in ("table", "tripod", "tent") or slot.startswith("card-")]
    return found
