package dev.brume.internal.event;

import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.JobName;
import dev.brume.StoreAnswer;
import java.time.Duration;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.LongSupplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Writes what a person should know to the log, one line an event: joins and leaves as information, whatever went wrong as a warning. An event that comes
 * again and again is counted, and said again at growing intervals, so that an outage of the night is a page and not a disk. Safe for use by many threads.
 */
public final class EventLog implements EngineListener {
    private static final Duration FIRST_PAUSE = Duration.ofMinutes(1);
    private static final Duration LONGEST_PAUSE = Duration.ofHours(1);
    private static final int MOST_KNOWN = 10_000;
    private static final int MOST_A_MINUTE = 200;

    private static final Set<Event.Kind> INFO = EnumSet.of(
            Event.Kind.JOINED, Event.Kind.DRAINING, Event.Kind.LEFT, Event.Kind.ZONE_RULES, Event.Kind.RECOVERED);
    private static final Set<Event.Kind> WARN = EnumSet.of(
            Event.Kind.FAILED,
            Event.Kind.MISSED,
            Event.Kind.TAKEN_OVER,
            Event.Kind.LEASE_LOST,
            Event.Kind.REFUSED,
            Event.Kind.PROBLEM);

    private final EngineListener next;
    private final LongSupplier nanos;
    private final Logger log;
    private final Map<Like, Repeats> known = new HashMap<>();
    private long minute;
    private int lines;
    private long leftOut;

    /** Events that say the same: of one kind, about one job or none, in the same words up to the first digit or sign. */
    private record Like(Event.Kind kind, Optional<JobName> job, String words) {
        static Like of(Event event) {
            return new Like(event.kind(), event.job(), event.text().replaceFirst("[:;(0-9].*", ""));
        }
    }

    private static final class Repeats {
        private long saidAt;
        private long pause = FIRST_PAUSE.toNanos();
        private long unsaid;
    }

    /**
     * Creates the log.
     *
     * @param next is told of everything that it wants, too
     * @param nanos a monotonic clock
     */
    public EventLog(EngineListener next, LongSupplier nanos) {
        this(next, nanos, LoggerFactory.getLogger("dev.brume.events"));
    }

    EventLog(EngineListener next, LongSupplier nanos, Logger log) {
        this.next = next;
        this.nanos = nanos;
        this.log = log;
        minute = nanos.getAsLong();
    }

    @Override
    public boolean wants(Event.Kind kind) {
        return INFO.contains(kind) || WARN.contains(kind) || next.wants(kind);
    }

    @Override
    public void answered(StoreAnswer answer) {
        next.answered(answer);
    }

    @Override
    public void saw(Event event) {
        if (INFO.contains(event.kind()) && log.isInfoEnabled()) {
            log.info("{}", line(event));
        } else if (WARN.contains(event.kind()) && log.isWarnEnabled()) {
            warn(event);
        }
        if (next.wants(event.kind())) {
            next.saw(event);
        }
    }

    private static String line(Event event) {
        StringBuilder line = new StringBuilder(event.instance()).append(": ").append(event.kind());
        event.job().ifPresent(job -> line.append(' ').append(job));
        event.run().ifPresent(run -> line.append(" run ").append(run));
        return line.append(event.text().isEmpty() ? "" : ": ")
                .append(event.text())
                .toString();
    }

    /** Ten thousand jobs that fail for one reason are ten thousand different lines. */
    private boolean isTooMuch(long now) {
        if (now - minute >= FIRST_PAUSE.toNanos()) {
            if (leftOut > 0) {
                log.warn("{} more warnings were left out in a minute that had {}", leftOut, lines);
            }
            minute = now;
            lines = 0;
            leftOut = 0;
        }
        leftOut += lines >= MOST_A_MINUTE ? 1 : 0;
        return lines >= MOST_A_MINUTE;
    }

    private void warn(Event event) {
        long unsaid;
        synchronized (known) {
            long now = nanos.getAsLong();
            if (isTooMuch(now)) {
                return;
            }
            Repeats repeats = known.get(Like.of(event));
            if (repeats == null || now - repeats.saidAt > 2 * LONGEST_PAUSE.toNanos()) {
                if (known.size() >= MOST_KNOWN) {
                    known.clear();
                }
                repeats = new Repeats();
                known.put(Like.of(event), repeats);
            } else if (now - repeats.saidAt < repeats.pause) {
                repeats.unsaid++;
                return;
            } else {
                boolean wentOn = repeats.unsaid > 0;
                repeats.pause = wentOn ? Math.min(2 * repeats.pause, LONGEST_PAUSE.toNanos()) : FIRST_PAUSE.toNanos();
            }
            unsaid = repeats.unsaid;
            repeats.saidAt = now;
            repeats.unsaid = 0;
            lines++;
        }
        log.warn("{}{}", line(event), unsaid == 0 ? "" : " (and " + unsaid + " more like it since the last line)");
    }
}
