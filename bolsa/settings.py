"""Every setting, read from the environment as BOLSA_<NAME>."""

import os
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Setting:
    name: str
    default: str
    help: str


SETTINGS = (
    Setting("data", "~/.local/share/bolsa/household.bolsa", "the household's file, when --data does not name one"),
    Setting("bank", "", "the address of the directory of institutions; empty means that there is none"),
    Setting("market", "", "the address of the service of rates, prices and value indexes; empty means that there is none"),
    Setting("mail", "", "the folder into which brokers' letters (.eml) are put; empty means that there is none"),
    Setting("address", "", "the address the pages are reached at from outside, as a proxy of one's own serves it (https://…)"),
    Setting("port", "8030", "the port on loopback the pages are served at; 0 takes a free one"),
)


def setting(name: str) -> str:
    """The value of a setting: the environment's, else its default."""
    default = next(s.default for s in SETTINGS if s.name == name)
    return os.environ.get(f"BOLSA_{name.upper()}", default)


def data_path() -> Path:
    """Where the household's file is."""
    return Path(setting("data")).expanduser()
