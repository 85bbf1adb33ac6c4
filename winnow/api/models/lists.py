"""Lists of frames."""

from __future__ import annotations

from winnow.api.models.base import Model


class ListColumn(Model):
    id: str
    title: str
    usual: bool
