package dev.brume.internal.duty;

import dev.brume.history.Output;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.PrintedNote;
import dev.brume.spi.TimeSource;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;

/**
 * What the attempts that run here print, as far as it is not on record yet: attempts that are soon over are left alone, and of the others
 * each is written every two seconds at most. Safe for use by many threads; what is to be written is taken by one.
 */
public final class Printing {
    private static final long PAUSE_NANOS = Duration.ofSeconds(2).toNanos();

    /** How many characters are written of an attempt at once. */
    private static final int LONGEST = 16 * 1024;

    /** Of how many attempts something is written at once. */
    private static final int MOST = 100;

    private final TimeSource time;
    private final ConcurrentMap<Long, Source> sources = new ConcurrentHashMap<>();

    /** What an attempt has printed. */
    public interface Printed {
        /** {@return how many bytes it has printed} */
        long bytes();

        /** {@return the end of it, at most so many characters, without secrets} */
        Optional<Output> end(int longest);
    }

    private record Source(LeasedRun run, Printed printed, long lookedAt, long bytes) {
        Source looked(long now, long written) {
            return new Source(run, printed, now, written);
        }
    }

    Printing(TimeSource time) {
        this.time = time;
    }

    /** An attempt begins. */
    public void began(LeasedRun run, Printed printed) {
        sources.put(run.id(), new Source(run, printed, time.nanos(), 0));
    }

    /** It has ended; what it printed comes with its end. */
    public void ended(LeasedRun run) {
        sources.computeIfPresent(run.id(), (id, source) -> source.run.equals(run) ? null : source);
    }

    /** {@return what is to be written now: of those that have printed more, those that were written longest ago} */
    public List<PrintedNote> take() {
        long now = time.nanos();
        List<Source> due = sources.values().stream()
                .filter(source -> now - source.lookedAt >= PAUSE_NANOS && source.printed.bytes() != source.bytes)
                .sorted(Comparator.comparingLong(source -> source.lookedAt - now))
                .limit(MOST)
                .toList();
        List<PrintedNote> notes = new ArrayList<>();
        for (Source source : due) {
            long bytes = source.printed.bytes();
            source.printed
                    .end(LONGEST)
                    .ifPresent(
                            output -> notes.add(new PrintedNote(source.run.row().leaseKey(), output)));
            sources.computeIfPresent(source.run.id(), (id, same) -> same == source ? source.looked(now, bytes) : same);
        }
        notes.sort(Comparator.comparingLong(note -> note.lease().run()));
        return notes;
    }
}
