"""What is typed, with its bounds: what is longer is refused, not cut."""

from typing import Annotated

from pydantic import Field

Text = Annotated[str, Field(max_length=2000)]
Short = Annotated[str, Field(max_length=40)]
Money = Annotated[float, Field(ge=-1e12, le=1e12)]
