"""Open formats in and out: pictures, RAW, Exif, XMP."""
