"""The plainest route that keeps one row durably and answers one line: what `make bench` compares a posted reading with."""

from __future__ import annotations

import os
from typing import Annotated
from uuid import UUID

from fastapi import FastAPI, Form
from fastapi.responses import HTMLResponse
from jinja2 import Environment
from sqlalchemy import create_engine, text

engine = create_engine(os.environ["DATABASE_URL"].replace("postgresql://", "postgresql+psycopg://"))
template = Environment(autoescape=True).from_string("<p>kept {{ value }}</p>")
insert = text("INSERT INTO bare (id, value) VALUES (:id, :value)")
app = FastAPI()


@app.post("/bare")
def keep(entry_id: Annotated[UUID, Form()], value: Annotated[str, Form()]) -> HTMLResponse:
    """Keep one value."""
    with engine.begin() as connection:
        connection.execute(insert, {"id": entry_id, "value": value})
    return HTMLResponse(template.render(value=value))
