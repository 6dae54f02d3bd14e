"""Files that come in and media that go out."""
