"""The live page: the proof in a browser, renewed as files are saved, with controls that set the brief."""
