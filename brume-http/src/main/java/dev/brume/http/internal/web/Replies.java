package dev.brume.http.internal.web;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import java.util.zip.GZIPOutputStream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Writes answers: packed where that is understood, and not again where whoever asks has them. Stateless. */
public final class Replies {
    private static final Logger LOG = LoggerFactory.getLogger(Replies.class);
    private static final int WORTH_PACKING = 1_000;
    private static final int MOST_UNREAD = 4_000_000;
    private static final String ENTERED = "dev.brume.http.entered";
    private static final String READ = "dev.brume.http.read";

    private Replies() {}

    /** Says what a browser may do with anything that comes from here: nothing but show it, to whoever asked for it. */
    public static void guard(HttpServletResponse response) {
        guard(response, "'none'");
        response.setHeader("X-Frame-Options", "DENY");
    }

    /** The same, but that pages of some origins may show it within themselves. */
    public static void guard(HttpServletResponse response, Set<String> framedBy) {
        guard(response, String.join(" ", framedBy));
    }

    private static void guard(HttpServletResponse response, String ancestors) {
        response.setHeader("Content-Security-Policy", policy(ancestors));
        response.setHeader("X-Content-Type-Options", "nosniff");
        response.setHeader("Referrer-Policy", "no-referrer");
        response.setHeader("Cross-Origin-Resource-Policy", "same-origin");
        response.setHeader("Cache-Control", "no-store");
    }

    private static String policy(String ancestors) {
        return "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; connect-src 'self'; form-action 'self';"
                + " frame-ancestors " + ancestors + "; base-uri 'none'";
    }

    /** Notes that somebody was let in, whose body is read even where it is not needed. */
    public static void entered(HttpServletRequest request) {
        request.setAttribute(ENTERED, true);
    }

    /**
     * Reads what is left of a body, once: one that nobody reads would end the connection in the middle of the answer. Of whoever was not let in,
     * none is read.
     */
    public static void readRest(HttpServletRequest request, HttpServletResponse response) {
        boolean done = request.getAttribute(READ) != null;
        request.setAttribute(READ, true);
        if (done
                || request.getContentLengthLong() == 0
                || request.getContentLengthLong() < 0 && request.getHeader("Transfer-Encoding") == null) {
            return;
        }
        if (request.getAttribute(ENTERED) == null) {
            response.setHeader("Connection", "close");
            return;
        }
        byte[] some = new byte[8192];
        long rest = MOST_UNREAD;
        try {
            InputStream in = request.getInputStream();
            int read = in.read(some);
            while (read >= 0 && rest > 0) {
                rest -= read;
                read = in.read(some);
            }
        } catch (IOException gone) {
            LOG.debug("the rest of a body did not come", gone);
            rest = 0;
        }
        if (rest <= 0) {
            response.setHeader("Connection", "close");
        }
    }

    /** Writes an answer. */
    public static void send(HttpServletRequest request, HttpServletResponse response, Reply reply) throws IOException {
        readRest(request, response);
        boolean looks = request.getMethod().equals("GET") || request.getMethod().equals("HEAD");
        for (Map.Entry<String, String> header : reply.headers().entrySet()) {
            response.addHeader(header.getKey(), header.getValue());
        }
        if (looks && reply.status() == 200 && reply.bytes().isPresent() && isUnchanged(request, response, reply)) {
            response.setStatus(304);
            return;
        }
        response.setStatus(reply.status());
        if (!reply.type().isEmpty()) {
            response.setContentType(reply.type() + (reply.type().contains("charset") ? "" : ";charset=utf-8"));
        }
        boolean packed = isPacked(request, reply);
        response.addHeader("Vary", "Accept-Encoding, Authorization, Cookie");
        if (packed) {
            response.setHeader("Content-Encoding", "gzip");
        } else if (reply.bytes().isPresent() && reply.status() != 204) {
            response.setContentLength(reply.bytes().get().length);
        }
        if (request.getMethod().equals("HEAD")) {
            return;
        }
        write(response, reply, packed);
    }

    private static void write(HttpServletResponse response, Reply reply, boolean packed) throws IOException {
        if (reply.bytes().isPresent() && reply.bytes().get().length == 0) {
            return;
        }
        OutputStream plain = response.getOutputStream();
        OutputStream out = packed ? new GZIPOutputStream(plain) : plain;
        if (reply.bytes().isPresent()) {
            out.write(reply.bytes().get());
        } else if (reply.stream().isPresent()) {
            Map<String, String> after = new LinkedHashMap<>();
            response.setTrailerFields(() -> after);
            after.putAll(reply.stream().get().write(out));
        }
        if (out instanceof GZIPOutputStream gzip) {
            gzip.finish();
        }
        plain.flush();
    }

    private static boolean isPacked(HttpServletRequest request, Reply reply) {
        String accepted = request.getHeader("Accept-Encoding");
        boolean understood =
                accepted != null && accepted.matches("(?i).*\\b(x-)?gzip\\b(?!\\s*;\\s*q=0(\\.0*)?\\s*(,|$)).*");
        return understood
                && reply.bytes().map(bytes -> bytes.length >= WORTH_PACKING).orElse(true);
    }

    /** A tag that the answer brings itself is of what it is about; others are of its bytes. */
    private static boolean isUnchanged(HttpServletRequest request, HttpServletResponse response, Reply reply) {
        String tag = reply.headers().getOrDefault("ETag", "");
        if (tag.isEmpty()) {
            tag = "W/\"" + digest(reply.bytes().orElseThrow()) + "\"";
            response.setHeader("ETag", tag);
        }
        response.setHeader("Cache-Control", "private, no-cache");
        String known = request.getHeader("If-None-Match");
        return known != null && (known.strip().equals("*") || weakly(known).contains(weakly(tag)));
    }

    private static String weakly(String tags) {
        return tags.replace("W/", "");
    }

    private static String digest(byte[] bytes) {
        try {
            byte[] digest = MessageDigest.getInstance("SHA-256").digest(bytes);
            return Base64.getUrlEncoder()
                    .withoutPadding()
                    .encodeToString(digest)
                    .substring(0, 22);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }
}
