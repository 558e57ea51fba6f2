"""What is packed on its way to the browser."""

from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.middleware.gzip import GZipMiddleware


class PackPages(GZipMiddleware):
    """Packs pages and answers; files go as they are, with their length: sound and pictures are packed already."""

    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        return response if response.streaming else super().process_response(request, response)
