package dev.brume.server;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import org.eclipse.jetty.http.HttpHeader;
import org.eclipse.jetty.http.HttpStatus;
import org.eclipse.jetty.server.Request;
import org.eclipse.jetty.server.Response;
import org.eclipse.jetty.util.Callback;

/** Says what is wrong with requests that are none, as RFC 9457 has it, and nothing of what serves them. */
final class PlainErrors implements Request.Handler {
    @Override
    public boolean handle(Request request, Response response, Callback callback) {
        int status = response.getStatus() == 0 ? HttpStatus.INTERNAL_SERVER_ERROR_500 : response.getStatus();
        String title = status >= 500 ? "Something here is broken" : "This is no request that can be understood";
        response.getHeaders().put(HttpHeader.CONTENT_TYPE, "application/problem+json;charset=utf-8");
        response.getHeaders().put(HttpHeader.CACHE_CONTROL, "no-store");
        response.getHeaders().put("X-Content-Type-Options", "nosniff");
        String body = "{\"type\":\"about:blank\",\"title\":\"" + title + "\",\"status\":" + status + "}\n";
        response.write(true, ByteBuffer.wrap(body.getBytes(StandardCharsets.UTF_8)), callback);
        return true;
    }
}
