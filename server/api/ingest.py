"""Where loggers send their readings: one address, a token each, JSON or lines of text."""

import time

import orjson
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST

from ember.basis.errors import EmberError, IntakeError
from ember.intake.live import MOST_BYTES, read_batch
from server.jobs.trouble import TROUBLE_FULL, disk_full, store_busy
from server.readings.live import RETRY, Busy, Stranger, logger_of, take
from server.readings.store import StoreError

INGEST_SOON = 2  # after which a busy store is asked again [s]
INGEST_SHOWN = 20  # refused readings that an answer names


@csrf_exempt
@require_POST
def ingest(request: HttpRequest) -> HttpResponse:
    """Takes a batch. 200 taken, or taken before; 400 not understood; 401 no such token; 409 its key
    was used for other readings; 413 too large; 429, 503 and 507 (the disk is full) wait."""
    now = time.time()
    try:
        scheme, _, token = request.headers.get("Authorization", "").partition(" ")
        if scheme.lower() != "bearer" or not token.strip():
            raise Stranger("send the logger's token in the header: Authorization: Bearer …")
        known = logger_of(token.strip())
        if int(request.headers.get("Content-Length") or 0) > MOST_BYTES:
            return _said(413, f"the batch is larger than {MOST_BYTES >> 20} MB; send it in parts.")
        body = request.body
        as_json = request.content_type != "text/plain"
        sent = read_batch(body, as_json, now)
        taken = take(known, sent, now)
    except Stranger as error:
        return _said(401, str(error))
    except Busy as error:
        return _later(429, str(error), RETRY)
    except (DatabaseError, OSError) as error:
        if disk_full(error):
            return _later(507, TROUBLE_FULL, RETRY)
        if store_busy(error):
            return _later(503, "the store is busy; nothing was taken, send it again.", INGEST_SOON)
        raise
    except IntakeError as error:
        return _said(413 if "in parts" in str(error) else 400, str(error))
    except StoreError as error:
        return _said(409, str(error))
    except EmberError as error:
        return _said(400, str(error))
    refused = [{"row": r.place, "why": r.why} for r in sent.refused[:INGEST_SHOWN]]
    return _json(
        200,
        {
            "accepted": taken.accepted,
            "already": taken.already,
            "refused": len(sent.refused),
            "first_refused": refused,
        },
    )


def _later(status: int, detail: str, seconds: int) -> HttpResponse:
    answer = _said(status, detail)
    answer["Retry-After"] = str(seconds)
    return answer


def _said(status: int, detail: str) -> HttpResponse:
    return _json(status, {"detail": detail})


def _json(status: int, content: object) -> HttpResponse:
    return HttpResponse(orjson.dumps(content), content_type="application/json", status=status)
