"""All tests.

Property tests draw the same examples every time, so that a check can be repeated. Set
EQUILIX_EXPLORE=1 to let them look elsewhere.
"""

import os

from hypothesis import settings

settings.register_profile("repeatable", derandomize=True)
settings.register_profile("explore", max_examples=400)
settings.load_profile("explore" if os.environ.get("EQUILIX_EXPLORE") else "repeatable")
