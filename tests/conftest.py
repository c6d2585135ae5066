"""How many examples Hypothesis tries: HYPOTHESIS_PROFILE=quick, default or thorough."""

import os

from hypothesis import HealthCheck, settings

slow = {
    "deadline": None,
    "suppress_health_check": [HealthCheck.too_slow, HealthCheck.data_too_large],
}
settings.register_profile("quick", max_examples=25, **slow)
settings.register_profile("default", max_examples=200, **slow)
settings.register_profile("thorough", max_examples=3000, **slow)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "default"))
