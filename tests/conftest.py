"""How many examples Hypothesis tries: HYPOTHESIS_PROFILE=quick, default, deep, shrink or thorough.

By default "default" on the compiled kernel, "quick" on the interpreted one. Failing examples are
shown as found; "shrink" makes them smaller, which can take minutes.
"""

import os

from hypothesis import HealthCheck, Phase, settings

import understep as us

slow = {
    "deadline": None,
    "suppress_health_check": [HealthCheck.too_slow, HealthCheck.data_too_large],
}
as_found = {**slow, "phases": [Phase.explicit, Phase.reuse, Phase.generate, Phase.target]}
settings.register_profile("quick", max_examples=10, **as_found)
settings.register_profile("default", max_examples=12, **as_found)
settings.register_profile("deep", max_examples=80, **as_found)
settings.register_profile("shrink", max_examples=100, **slow)
settings.register_profile("thorough", max_examples=3000, **as_found)
usual = "default" if us.kernels() == "compiled" else "quick"
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", usual))
