"""MusicXML 4.0 out (our own writer, so that note ids last into the engraving) and in."""

from attentive_owl.formats.musicxml.part import ScoreFileError
from attentive_owl.formats.musicxml.reading import read_musicxml
from attentive_owl.formats.musicxml.writing import add_words, note_id, score_tree, write_musicxml

__all__ = ["ScoreFileError", "add_words", "note_id", "read_musicxml", "score_tree", "write_musicxml"]
