"""How many examples Hypothesis tries: HYPOTHESIS_PROFILE=quick, deep, shrink or thorough.

Failing examples are shown as found; "shrink" makes them smaller, which can take minutes.
"""

import os

from hypothesis import HealthCheck, Phase, settings

slow = {
    "deadline": None,
    # how slow boards are to make, and how often one has no way to walk, are no faults
    "suppress_health_check": [
        HealthCheck.too_slow,
        HealthCheck.data_too_large,
        HealthCheck.filter_too_much,
    ],
}
as_found = {**slow, "phases": [Phase.explicit, Phase.reuse, Phase.generate, Phase.target]}
# the same examples every time: whether a change passes is not left to chance; "thorough" hunts
settings.register_profile("quick", max_examples=10, derandomize=True, **as_found)
settings.register_profile("deep", max_examples=80, derandomize=True, **as_found)
settings.register_profile("shrink", max_examples=100, **slow)
settings.register_profile("thorough", max_examples=3000, **as_found)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "quick"))
