"""Ready-made families, as `from logarithm import families` or `import logarithm.families` finds them."""

from .study.families import *  # noqa: F403
from .study.families import ALL as ALL
from .study.families import ready as ready
