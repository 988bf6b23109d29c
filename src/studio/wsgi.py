"""What gunicorn serves."""

from django.core.wsgi import get_wsgi_application

from studio.accounts.checks import refuse_mixtures
from studio.memory import keep_what_is_loaded

application = get_wsgi_application()
refuse_mixtures()
keep_what_is_loaded()
