"""What every route stands in: access to the services, guard, problems, the page, sound and files as answers."""

from fernbrook.api.frame.access import ServicesDep
from fernbrook.api.frame.file_response import file_response
from fernbrook.api.frame.sound import RESPONSES, Sample, sound_response

__all__ = [
    "RESPONSES",
    "Sample",
    "ServicesDep",
    "file_response",
    "sound_response",
]
