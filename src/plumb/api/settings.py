"""Every setting in one table: name, default, unit in the name, help; set as PLUMB_<NAME>."""

from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

from plumb.core.measure.decision import Thresholds

ROOT = Path(__file__).resolve().parents[3]


class Settings(BaseSettings):
    """What a shop can set by environment variables."""

    model_config = SettingsConfigDict(env_prefix="PLUMB_", extra="ignore")

    port: int = Field(8650, ge=1, le=65535, description="port of the application on 127.0.0.1")
    db_port: int = Field(8651, ge=1, le=65535, description="port of the private database")
    data_dir: Path = Field(ROOT / "var" / "db", description="where the private database lives")
    hosts: str = Field(
        "127.0.0.1, localhost, [::1]",
        description="names that Plumb may be called by, with commas between; others are refused",
    )
    call_probability: float = Field(
        0.95, gt=0.5, lt=1, description="from this probability on an injector is called out"
    )
    clear_probability: float = Field(
        0.05, gt=0, lt=0.5, description="up to this probability it is called in plumb"
    )
    upload_limit_mb: int = Field(100, ge=1, le=400, description="largest trace that is taken in")

    def known_hosts(self) -> frozenset[str]:
        """The names that a request may be for."""
        return frozenset(h.strip() for h in self.hosts.split(",") if h.strip())

    def thresholds(self) -> Thresholds:
        """The two probabilities for the core."""
        return Thresholds(call=self.call_probability, clear=self.clear_probability)


def table() -> list[tuple[str, str, str, str]]:
    """Each setting as (variable, value now, default, help)."""
    current = Settings()
    return [
        (f"PLUMB_{name.upper()}", str(getattr(current, name)), str(f.default), f.description or "")
        for name, f in Settings.model_fields.items()
    ]
