"""The audio files of the library: their names, tags and state, and how they are written."""

from fernbrook.service.files.audio_files import find_audio, known_suffix
from fernbrook.service.files.file_manager import show_in_folder
from fernbrook.service.files.file_names import display_name, file_name, same_name, shortened
from fernbrook.service.files.file_writing import Change, FileWriting, Wanted, document_in, document_of, take_document
from fernbrook.service.files.sound_files import SoundFiles, content_hash, note_kept
from fernbrook.service.files.tags import Tags, names_in, read_tags, write_tags

__all__ = [
    "Change",
    "FileWriting",
    "SoundFiles",
    "Tags",
    "Wanted",
    "content_hash",
    "display_name",
    "document_in",
    "document_of",
    "file_name",
    "find_audio",
    "known_suffix",
    "names_in",
    "note_kept",
    "read_tags",
    "same_name",
    "shortened",
    "show_in_folder",
    "take_document",
    "write_tags",
]
