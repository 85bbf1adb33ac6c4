"""What can be set for a whole Winnow: names, limits, what each means. Where it is kept is none of this room's."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

CacheGb = Annotated[int, Field(ge=1, le=100_000, strict=True)]
Workers = Annotated[int, Field(ge=0, le=256, strict=True)]
Port = Annotated[int, Field(ge=0, le=65535, strict=True)]
Backups = Annotated[int, Field(ge=0, le=365, strict=True)]


class Settings(BaseModel):
    """As a person may write them into the file of settings; what is not said there is as here."""

    model_config = ConfigDict(extra="forbid", frozen=True, strict=True)

    cache_gb: CacheGb = Field(
        40,
        description="Room for previews and thumbnails, GB. Those looked at longest ago are forgotten first, and made "
        "again when they are wanted.",
    )
    takes_in: bool = Field(
        True,
        description="Marks that only another program changed are taken over when a shoot is opened. Otherwise they "
        "wait on the Sync screen.",
    )
    full_sidecar_names: bool = Field(
        False, description="New sidecars are called NAME.EXT.xmp, and not NAME.xmp."
    )
    watch: bool = Field(
        True,
        description="What other programs write into the folders of open shoots is noticed by itself. From the next "
        "start.",
    )
    workers: Workers = Field(
        0, description="Processes that measure; 0: one for each core. From the next start."
    )
    open_browser: bool = Field(True, description="Starting Winnow opens the browser. From the next start.")
    port: Port = Field(8420, description="Port to listen on; 0 takes a free one. From the next start.")
    backups_kept: Backups = Field(
        7,
        description="Once a day a backup is made by itself, and so many of them are kept; 0: none are made.",
    )
    roots: list[str] = Field(
        [],
        max_length=200,
        description="Folders that may be browsed and opened besides home, mounted disks, and those that Winnow was "
        "started with. It can be set in this file alone.",
    )
    on_event: str = Field(
        "",
        max_length=2000,
        description="Command that is run when a plan or a pass ended, in words as a shell splits them; it gets what "
        "happened as JSON on its standard input. It can be set in this file alone.",
    )
    picture_names_in_log: bool = Field(
        False,
        description="The log names pictures and folders. Otherwise it can be shown to others. From the next start.",
    )
