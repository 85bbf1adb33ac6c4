from winnow.cli import app

app()
