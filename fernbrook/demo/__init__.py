"""The demo material: 'Glasshouse Late', ten made-up tracks and a mix of them, made by code, the same every time."""
