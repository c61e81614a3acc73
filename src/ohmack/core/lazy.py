"""A property computed once an instance, without a lock: the standard library's shares one lock over all instances
until Python 3.12.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

T = TypeVar("T")


class lazy(Generic[T]):  # noqa: N801  (a decorator, like property)
    """Compute on first use and keep in the instance; two threads may both compute, the result is the same."""

    def __init__(self, compute: Callable[[Any], T]) -> None:
        self.compute = compute
        self.__doc__ = compute.__doc__

    def __set_name__(self, owner: type, name: str) -> None:
        self.name = name

    @overload
    def __get__(self, instance: None, owner: type) -> lazy[T]: ...

    @overload
    def __get__(self, instance: object, owner: type) -> T: ...

    def __get__(self, instance: object | None, owner: type) -> lazy[T] | T:
        if instance is None:
            return self
        value = self.compute(instance)
        instance.__dict__[self.name] = value  # found before this descriptor from now on
        return value
