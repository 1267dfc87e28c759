"""Endpoints declared with their models; the OpenAPI document is made from the declarations."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any, Literal, TypeVar

from flask import Blueprint, Response, request
from pydantic import BaseModel, ConfigDict, TypeAdapter, ValidationError
from pydantic.json_schema import models_json_schema

from .. import __version__
from ..core.documents.checking import model_fault
from ..core.documents.json_input import check_plain, parse_json
from ..core.giving_up import given_up_when
from .request_order import gone

Method = Literal["GET", "POST", "DELETE"]
T = TypeVar("T")


class Wire(BaseModel):
    """A request body or an answer; unknown fields are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Problem(Wire):
    """RFC 9457 problem details."""

    title: str
    status: int
    detail: str
    where: str | None = None


@dataclass(frozen=True)
class Endpoint:
    """One operation of the API."""

    method: Method
    path: str
    name: str
    summary: str
    body: type[BaseModel] | None
    query: type[BaseModel] | None
    answer: type[BaseModel] | None
    gives: str
    upload: bool


ENDPOINTS: list[Endpoint] = []


def endpoint(
    blueprint: Blueprint,
    method: Method,
    path: str,
    *,
    body: type[BaseModel] | None = None,
    query: type[BaseModel] | None = None,
    answer: type[BaseModel] | None = None,
    gives: str = "application/json",
    upload: bool = False,
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Serve the decorated function at ``/api`` + path; parse body and query by their models.

    With an upload, the body comes as JSON in the form's field ``about``.
    """

    def declare(view: Callable[..., Any]) -> Callable[..., Any]:
        summary = (view.__doc__ or view.__name__).strip().split("\n")[0]
        ENDPOINTS.append(
            Endpoint(method, path, view.__name__, summary, body, query, answer, gives, upload)
        )

        @wraps(view)
        def serve(**path_values: Any) -> Any:
            if query is not None:
                asked = request.args.to_dict()
                check_plain(asked, "The address")
                path_values["query"] = _parsed(query, asked, "query")
            if body is not None:
                text = request.form.get("about", "") if upload else request.get_data()
                raw = parse_json(text, "The request") if text else {}
                path_values["body"] = _parsed(body, raw, "request")
            # Planning and lookups also stop when the client has hung up.
            with given_up_when(gone()):
                given = view(**path_values)
            if isinstance(given, BaseModel):
                return Response(given.model_dump_json(), mimetype="application/json")
            return given

        blueprint.add_url_rule(f"/api{path}", view.__name__, serve, methods=[method])
        return serve

    return declare


def _parsed(model: type[BaseModel], raw: Any, what: str) -> BaseModel:
    try:
        return model.model_validate(raw)
    except ValidationError as fault:
        raise model_fault(what, fault) from None


def tried_change(kinds: TypeAdapter[T], text: str) -> T:
    """A change from the JSON in an address.

    Raises
    ------
    Fault
    """
    try:
        return kinds.validate_python(parse_json(text, "The change"))
    except ValidationError as fault:
        raise model_fault("change", fault) from None


_PATH = re.compile(r"<(?:(\w+):)?(\w+)>")


def openapi() -> dict[str, Any]:
    """The OpenAPI 3.1 document of all declared endpoints."""
    used: list[tuple[type[BaseModel], Literal["validation", "serialization"]]] = [
        (Problem, "serialization")
    ]
    for point in ENDPOINTS:
        if point.body:
            used.append((point.body, "validation"))
        if point.answer:
            used.append((point.answer, "serialization"))
    names, definitions = models_json_schema(
        list(dict.fromkeys(used)), ref_template="#/components/schemas/{model}"
    )
    paths: dict[str, Any] = {}
    for point in sorted(ENDPOINTS, key=lambda p: (p.path, p.method)):
        path = "/api" + _PATH.sub(r"{\2}", point.path)
        paths.setdefault(path, {})[point.method.lower()] = _operation(point, names)
    return {
        "openapi": "3.1.0",
        "info": {"title": "Pale Static", "version": __version__},
        "paths": paths,
        "components": {"schemas": definitions["$defs"]},
    }


def _operation(point: Endpoint, names: Any) -> dict[str, Any]:
    parameters = [
        {
            "name": name,
            "in": "path",
            "required": True,
            "schema": {"type": "integer" if kind == "int" else "string"},
        }
        for kind, name in _PATH.findall(point.path)
    ]
    if point.query:
        schema = point.query.model_json_schema()
        parameters += [
            {
                "name": name,
                "in": "query",
                "required": name in schema.get("required", []),
                "schema": {k: v for k, v in field.items() if k not in ("title", "default")},
            }
            for name, field in schema["properties"].items()
        ]
    content: dict[str, Any] = {"schema": {}}
    if point.answer:
        content = {"schema": names[(point.answer, "serialization")]}
    problem = {"schema": names[(Problem, "serialization")]}
    operation: dict[str, Any] = {
        "operationId": point.name,
        "summary": point.summary,
        "parameters": parameters,
        "responses": {
            "200": {"description": "Done.", "content": {point.gives: content}},
            "default": {
                "description": "The request that failed.",
                "content": {"application/problem+json": problem},
            },
        },
    }
    if point.body:
        schema = names[(point.body, "validation")]
        operation["requestBody"] = {
            "required": True,
            "content": {"application/json": {"schema": schema}},
        }
    if point.upload:
        fields: dict[str, Any] = {"file": {"type": "string", "format": "binary"}}
        if point.body:
            fields["about"] = names[(point.body, "validation")]
        binary = {"type": "object", "properties": fields}
        operation["requestBody"] = {
            "required": True,
            "content": {"multipart/form-data": {"schema": binary}},
        }
    return operation
