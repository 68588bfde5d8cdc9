"""Honest Ember's core: the rules of the job, numpy in, frozen dataclasses out.

No interface code, no Django. Inside, units are SI with degrees Celsius; units are
converted where readings come in and where figures are shown.
"""

VERSION = "0.1.0"
