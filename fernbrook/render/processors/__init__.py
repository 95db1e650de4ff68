"""What turns the controls of a part into sound: inserts, one after the other, and sends, whose sound is added.

A new kind of control is a row in ``core/mix/curves/control.py``, a file here with a class that keeps to ``Insert`` or
``Ringing``, and its place in ``chain.py`` or ``sends.py``.
"""

from fernbrook.render.processors.chain import Chain, turned_in
from fernbrook.render.processors.sends import ringings

__all__ = ["Chain", "ringings", "turned_in"]
