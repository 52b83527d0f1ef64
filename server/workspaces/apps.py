from django.apps import AppConfig


class WorkspacesConfig(AppConfig):
    name = "workspaces"
