"""Tags of the pages about signing in."""

from django import template
from django.utils.safestring import SafeString

from studio.joining.pictures import code_picture

register = template.Library()


@register.simple_tag
def totp_picture(url: str) -> SafeString:
    """Return the code to photograph with an app for one-time codes."""
    return code_picture(url)
