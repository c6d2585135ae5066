"""How many examples Hypothesis tries: HYPOTHESIS_PROFILE=quick, default, raw or thorough.

By default "default" on the compiled kernel, "quick" on the interpreted one.
"""

import os

from hypothesis import HealthCheck, Phase, settings

import understep as us

slow = {
    "deadline": None,
    "suppress_health_check": [HealthCheck.too_slow, HealthCheck.data_too_large],
}
settings.register_profile("quick", max_examples=10, **slow)
settings.register_profile("default", max_examples=50, **slow)
# for a first look at a failure: without minutes of making it smaller
settings.register_profile(
    "raw", max_examples=50, phases=[Phase.explicit, Phase.reuse, Phase.generate], **slow
)
settings.register_profile("thorough", max_examples=3000, **slow)
usual = "default" if us.kernels() == "compiled" else "quick"
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", usual))
