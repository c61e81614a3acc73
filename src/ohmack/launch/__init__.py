"""Starting and stopping: system packages, the virtual environment, MariaDB, the application."""
