"""Settings from the environment, all named OHMACK_..."""

from __future__ import annotations

import ipaddress
from typing import Literal
from urllib.parse import urlsplit

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

from ohmack.store.database import DatabaseSettings


def is_loopback(host: str) -> bool:
    """Whether only this machine reaches an address."""
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return host == "localhost"


class Settings(BaseSettings):
    """Where to listen and where the database is."""

    model_config = SettingsConfigDict(env_prefix="OHMACK_")

    host: str = "127.0.0.1"
    port: int = Field(8417, ge=1, le=65535)
    allowed_hosts: str = "127.0.0.1,localhost,[::1]"
    public_address: str = ""  # where customers' links open, as https://example.org; empty for where the shop asks from
    workers: int = Field(1, ge=1, le=64)  # processes that serve
    log: Literal["text", "json"] = "text"
    metrics_token: str = ""  # who may read /metrics from elsewhere than this machine
    backup_folder: str = ""  # where the nightly backups go; empty for none
    backup_at: str = Field("02:30", pattern=r"^([01]\d|2[0-3]):[0-5]\d$")
    backup_keep: int = Field(14, ge=1, le=1000)
    summaries: bool = True  # judge at start what the list of jobs knows nothing of yet
    database_host: str = "127.0.0.1"
    database_port: int = Field(3306, ge=1, le=65535)
    database_user: str = "ohmack"
    database_password: str = ""
    database_name: str = "ohmack"

    @property
    def hosts(self) -> list[str]:
        """The names a browser may reach the server by: those set, where it listens, where it is published."""
        own = [] if is_loopback(self.host) or self.host in ("0.0.0.0", "::") else [self.host]
        published = [name for name in [urlsplit(self.public_address).hostname] if name]
        return [*self.allowed_hosts.split(","), *own, *published]

    @property
    def database(self) -> DatabaseSettings:
        """The database's part of the settings."""
        return DatabaseSettings(
            self.database_host, self.database_port, self.database_user, self.database_password, self.database_name
        )
