package dev.brume.http.internal.access;

import jakarta.servlet.http.HttpServletRequest;
import java.util.Optional;

/** Lets in who may come in. Safe for use by many threads. */
public interface Door {

    /**
     * {@return who makes a request; empty if nobody has said}
     *
     * @param from where it came from
     * @throws dev.brume.http.internal.web.Problem if what they said lets nobody in, or nobody is let in from there
     */
    Optional<Entry> enter(HttpServletRequest request, Sender from);
}
