"""Settings from the environment, each prefixed LYNXBILL_."""

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """`database_url`: an existing PostgreSQL to use instead of the private one."""

    model_config = SettingsConfigDict(env_prefix="LYNXBILL_")

    database_url: str | None = None
