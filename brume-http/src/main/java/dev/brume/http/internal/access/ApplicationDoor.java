package dev.brume.http.internal.access;

import dev.brume.http.Callers;
import jakarta.servlet.http.HttpServletRequest;
import java.util.Optional;

/** Lets in the principals of an application, which has found out who they are. */
public final class ApplicationDoor implements Door {
    private final Callers callers;

    /** Creates the door. */
    public ApplicationDoor(Callers callers) {
        this.callers = callers;
    }

    /** The request is gone when a stream asks again; whoever was let in stays until the application closes the connection. */
    @Override
    public Optional<Entry> enter(HttpServletRequest request, Sender from) {
        boolean byBrowser = request.getHeader("Authorization") == null;
        return callers.of(request).map(caller -> new Entry(caller, byBrowser, () -> true));
    }
}
