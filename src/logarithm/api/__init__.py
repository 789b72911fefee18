"""One function a task, with results returned; the command line and the notebook are two thin layers on it."""
