"""Files that are no plain text, made into text: spreadsheets, Parquet, Arrow, JSON, gzip, UTF-16.

In: a path. Out: the text as CSV. Made in a process of its own with limits of memory and time, since
a few bytes of such a file may ask for any amount of either. This room imports nothing of the core
but its errors: its process begins in a quarter of a second.
"""

from ember.unpacked.apart import Limits, limited, unpacked
from ember.unpacked.formats import FORMATS_LARGEST, Source, check_zip, kind_of

__all__ = ["FORMATS_LARGEST", "Limits", "Source", "check_zip", "kind_of", "limited", "unpacked"]
