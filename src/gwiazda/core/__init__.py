"""The core: no Qt, no window, no clock, no randomness without a seed."""

import importlib.util
import os
import sys

# Nothing here uses pydantic's plugins, and looking for them reads the metadata of every installed package.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")

if "importlib.metadata" not in sys.modules:
    # Pydantic imports it only for those plugins. Loaded at first use (the recipe of importlib.util.LazyLoader), it
    # does not hold up every start.
    _spec = importlib.util.find_spec("importlib.metadata")
    if _spec is not None and _spec.loader is not None:
        _spec.loader = importlib.util.LazyLoader(_spec.loader)
        _module = importlib.util.module_from_spec(_spec)
        sys.modules["importlib.metadata"] = importlib.metadata = _module
        _spec.loader.exec_module(_module)
