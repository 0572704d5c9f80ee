"""Settings from the environment, each prefixed LYNXBILL_."""

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """
    `database_url`: an existing PostgreSQL to use instead of the private one; `data_folder`: where it keeps its data,
    if that is on this computer, so that the space there is watched.
    """

    model_config = SettingsConfigDict(env_prefix="LYNXBILL_")

    database_url: str | None = None
    data_folder: Path | None = None
