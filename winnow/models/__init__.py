"""Neural networks that ship with the application. Origin, licences and checksums: `README.md` beside them."""
