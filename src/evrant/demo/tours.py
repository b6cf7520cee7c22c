"""Three short tours, one for each demo: a page of the studio and what to see there."""

TOURS: dict[str, tuple[tuple[str, str], ...]] = {
    "adoption-corner": (
        ("room", "A box room for pictures of pets. Everything on the plan can be dragged; what is dashed is assumed."),
        ("shots", "Four pictures are wanted. Pull a frame's edge, slide the aperture: what is sharp follows."),
        ("sets", "The set from above, along the lens and facing the background. Circles are where something fails."),
        ("light", "What the light does here: how much comes by way of walls, which power each flash is set to."),
        ("settle", "Settle all looks for the least changes that make the plan ready to buy."),
    ),
    "hands-in-view": (
        ("sets", "A teacher films lessons. Drag a lamp: drawing and ledger follow, and Undo takes it back."),
        ("power", "Leads lie where nobody trips; each circuit is added up with what else runs on it."),
        ("stow", "After each lesson all goes into the cupboard: this is how, and what does not fit."),
        ("best", "The best kit for a sum, proved: what to buy first, what later, what to do without."),
    ),
    "stones-on-file": (
        ("sets", "Small stones in an attic, close up. The picture shows what the planned camera would see."),
        ("lenses", "What each lens can do in this room, and how far back it must stand."),
        ("support", "What could hold each light here, with the reason against each that cannot."),
        ("shopping", "The list to buy by, with ways back: what was paid, where, and until when it can be returned."),
    ),
}
