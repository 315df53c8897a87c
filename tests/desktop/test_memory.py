"""Few heaps, and what is free in them given back."""

from __future__ import annotations

import threading

from gwiazda.desktop import memory


class Library:
    def __init__(self):
        self.asked, self.trimmed = [], threading.Event()

    def mallopt(self, what, value):
        self.asked.append((what, value))

    def malloc_trim(self, pad):
        self.trimmed.set()


def test_the_library_is_asked(monkeypatch):
    library = Library()
    monkeypatch.setattr(memory, "_library", lambda: library)
    memory.few_heaps()
    memory.give_back()
    assert library.asked == [(-8, 2)] and library.trimmed.wait(5.0)


def test_a_library_without_it_is_left_alone(monkeypatch):
    monkeypatch.setattr(memory, "_library", object)
    before = threading.active_count()
    memory.few_heaps()
    memory.give_back()
    assert threading.active_count() == before
