"""What was computed is kept, within bounds; threads may share it."""

from collections.abc import Callable, Hashable
from threading import Lock
from typing import TYPE_CHECKING, Any, TypeVar

if TYPE_CHECKING:
    from functools import cached_property as cached_property
else:

    class cached_property:  # noqa: N801  # in its place
        """As that of functools, which until Python 3.12 lets one thread at a time compute a property, of all instances.

        Two threads may compute the same; both come to the same.
        """

        def __init__(self, compute: Callable[[Any], object]) -> None:
            self._compute, self.__doc__ = compute, compute.__doc__

        def __set_name__(self, owner: type, name: str) -> None:
            self._name = name

        def __get__(self, instance: Any, owner: type | None = None) -> object:
            if instance is None:
                return self
            value = instance.__dict__[self._name] = self._compute(instance)
            return value


_Key = TypeVar("_Key", bound=Hashable)
_Value = TypeVar("_Value")

_CHANGING = Lock()


class BoundedCache(dict[_Key, _Value]):
    """What was computed, by its key: at most so many, of which the oldest is let go of first."""

    def __init__(self, most: int) -> None:
        super().__init__()
        self.most = most

    def get_or(self, key: _Key, compute: Callable[[], _Value]) -> _Value:
        """What is known of a key, or else computed and kept."""
        found = self.get(key)
        if found is not None:
            return found
        value = compute()
        self.keep(key, value)
        return value

    def keep(self, key: _Key, value: _Value) -> None:
        """Keep what is known of a key, as the newest."""
        with _CHANGING:
            self.pop(key, None)
            while len(self) >= self.most:
                del self[next(iter(self))]
            self[key] = value
