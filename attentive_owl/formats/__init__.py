"""Files in and out: MusicXML, sound, engraving."""
