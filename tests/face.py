"""The public face: every name with the module that shows it, and what it is."""

import understep as us

MODULES = "answers", "behaviors", "draw", "errors", "maps", "shapes", "study", "typing", "worlds"
FLAT = [name for name in dir(us) if name not in MODULES]
HIDDEN = {(each, name) for each in ("answers", "typing") for name in dir(getattr(us, each))}
PLACES = [("", name) for name in FLAT]
PLACES += [(each, name) for each in MODULES for name in dir(getattr(us, each))]
PUBLIC = {
    f"{module}.{name}".lstrip("."): getattr(getattr(us, module) if module else us, name)
    for module, name in PLACES
}
