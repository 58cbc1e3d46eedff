"""The page of methods."""

from pydantic import BaseModel


class MethodsOut(BaseModel):
    html: str
