package dev.brume.http.internal.live;

import dev.brume.history.FeedPosition;
import jakarta.servlet.AsyncContext;
import jakarta.servlet.ServletOutputStream;
import jakarta.servlet.WriteListener;
import java.io.IOException;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.function.BooleanSupplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Somebody who follows: what they are still to be told waits here, up to a bound, and is written as they take it. Safe for use by many threads.
 */
final class Client implements WriteListener {
    private static final Logger LOG = LoggerFactory.getLogger(Client.class);

    private final AsyncContext async;
    private final ServletOutputStream out;
    private final int bound;
    private final Wanted wanted;
    private final BooleanSupplier isStillGood;
    private final Deque<Piece> waiting = new ArrayDeque<>();
    private int behind;
    private FeedPosition told;
    private boolean ending;
    private boolean ended;
    private boolean flushes;

    Client(
            AsyncContext async,
            ServletOutputStream out,
            int bound,
            Wanted wanted,
            BooleanSupplier isStillGood,
            FeedPosition begin) {
        this.async = async;
        this.out = out;
        this.bound = bound;
        this.wanted = wanted;
        this.isStillGood = isStillGood;
        this.told = begin;
    }

    Wanted wanted() {
        return wanted;
    }

    boolean isStillGood() {
        return isStillGood.getAsBoolean();
    }

    /** {@return behind which event they are} */
    synchronized FeedPosition told() {
        return told;
    }

    /** Notes that everything up to a place is known to them, or does not concern them. */
    synchronized void passed(FeedPosition position) {
        told = position;
    }

    synchronized boolean hasEnded() {
        return ended;
    }

    synchronized int behind() {
        return behind;
    }

    /** Tells them some events; whoever is too far behind is cut, and told that. */
    void tell(Piece piece) {
        synchronized (this) {
            if (ending || ended) {
                return;
            }
            if (behind >= bound) {
                waiting.clear();
                waiting.add(Piece.of(
                        "event: cut\ndata: {\"reason\":\"more than " + bound
                                + " events behind; come back with Last-Event-ID\"}\n\n",
                        1));
                behind = 1;
                ending = true;
            } else {
                waiting.add(piece);
                behind += piece.events();
            }
        }
        write();
    }

    /** Tells them a last thing, and ends. */
    void end(String text) {
        synchronized (this) {
            if (!ending && !ended) {
                waiting.add(Piece.of(text, 1));
                behind++;
                ending = true;
            }
        }
        write();
    }

    /** Ends at once. */
    void cut() {
        synchronized (this) {
            if (ended) {
                return;
            }
            ended = true;
            waiting.clear();
        }
        async.complete();
    }

    @Override
    public void onWritePossible() {
        write();
    }

    private void write() {
        boolean over = false;
        synchronized (this) {
            try {
                while (!ended && out.isReady()) {
                    if (!waiting.isEmpty()) {
                        Piece next = waiting.poll();
                        behind -= next.events();
                        out.write(next.bytes());
                        flushes = true;
                    } else if (flushes) {
                        out.flush();
                        flushes = false;
                    } else {
                        break;
                    }
                }
                if (!ended && ending && waiting.isEmpty() && !flushes) {
                    ended = true;
                    over = true;
                }
            } catch (IOException | RuntimeException gone) {
                LOG.debug("whoever followed has left", gone);
                ended = true;
                over = true;
            }
        }
        if (over) {
            complete();
        }
    }

    private void complete() {
        try {
            async.complete();
        } catch (IllegalStateException already) {
            LOG.debug("the container has ended it already", already);
        }
    }

    @Override
    public void onError(Throwable gone) {
        LOG.debug("whoever followed has left", gone);
        synchronized (this) {
            if (ended) {
                return;
            }
            ended = true;
        }
        complete();
    }
}
