"""What gunicorn serves."""

from django.core.wsgi import get_wsgi_application

from studio.accounts.checks import refuse_mixtures

application = get_wsgi_application()
refuse_mixtures()
