"""The title block of an organisation's reports: a small file beside the review, with a logo where it names one."""

from __future__ import annotations

from pathlib import Path

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import said_of

# The file of one review, else that of all in its folder.
OWN, COMMON = "{}.titles.yaml", "titles.yaml"
LARGEST_LOGO = 2_000_000


class TitleBlock(BaseModel):
    """Labels and what they say, and the bytes of the logo, a PNG; all may be empty."""

    model_config = ConfigDict(extra="forbid")
    organisation: str = Field("", max_length=200)
    department: str = Field("", max_length=200)
    project: str = Field("", max_length=200)
    document: str = Field("", max_length=200)
    revision: str = Field("", max_length=200)
    author: str = Field("", max_length=200)
    checked: str = Field("", max_length=200)
    logo: str = Field("", max_length=200, description="A PNG in the same folder.")
    logo_data: bytes = b""

    @property
    def lines(self) -> list[tuple[str, str]]:
        """Labels with what they say, but for the organisation; empty ones are left out."""
        names = ("department", "project", "document", "revision", "author", "checked")
        return [(name, str(getattr(self, name))) for name in names if getattr(self, name)]


def title_block(review: Path) -> TitleBlock:
    """The title block that goes with a review. Raises IronstoneError that says what is wrong with its file."""
    import yaml

    path = next((p for n in (OWN.format(review.stem), COMMON) if (p := review.parent / n).is_file()), None)
    if path is None:
        return TitleBlock()
    try:
        stated = yaml.safe_load(path.read_text(encoding="utf-8")) or {}
        if not isinstance(stated, dict) or "logo_data" in stated:
            raise IronstoneError(f"{path.name} is no title block.", "It holds lines like organisation: NAME.")
        # YAML reads a bare 3 or a date as such: here they are words.
        block = TitleBlock.model_validate({k: v if v is None else str(v) for k, v in stated.items() if v is not None})
    except (OSError, UnicodeDecodeError, yaml.YAMLError) as error:
        raise IronstoneError(
            f"{path.name} cannot be read: {' '.join(str(error).split())[:200]}.", "Write YAML in UTF-8."
        ) from error
    except ValidationError as error:
        words = ", ".join(n for n in TitleBlock.model_fields if n != "logo_data")
        raise IronstoneError(f"{path.name}: {said_of(error)}.", f"Its words are: {words}.") from error
    if not block.logo:
        return block
    logo = path.parent / Path(block.logo).name
    if not logo.is_file() or logo.stat().st_size > LARGEST_LOGO:
        raise IronstoneError(f"The logo {block.logo} of {path.name} is not there, or larger than 2 MB.", "Put a PNG beside it.")
    data = logo.read_bytes()
    if not data.startswith(b"\x89PNG\r\n\x1a\n"):
        raise IronstoneError(f"The logo {block.logo} is no PNG.", "Save it as PNG.")
    return block.model_copy(update={"logo_data": data})
