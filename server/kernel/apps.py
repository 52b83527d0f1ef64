from django.apps import AppConfig


class KernelConfig(AppConfig):
    name = "kernel"
