"""The service over HTTP, as JSON; errors as problem JSON (RFC 9457)."""
