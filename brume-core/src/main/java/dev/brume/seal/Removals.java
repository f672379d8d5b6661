package dev.brume.seal;

import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.Keep;
import dev.brume.port.Change;
import dev.brume.port.ChangeFilter;
import dev.brume.port.ChangeView;
import dev.brume.port.History;
import dev.brume.schedule.Durations;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * What retention has put into the change log about the lines that it removed, each note held against the bounds that were in force at its time.
 *
 * <p>A note is believed only if it is what retention writes: it names as many lines as it counts, the bounds are those of the ledger at that time, or of a version of the job, and what
 * it removed was old enough for them. Anyone who may add to the change log can write something that looks like one.
 */
final class Removals {
    private static final int PAGE = 2000;
    private static final int MOST_VERSIONS = 1000;
    private static final Pattern NOTE =
            Pattern.compile("(\\d{1,18}) ledger lines?, planned from (\\S{1,60}) to (\\S{1,60}); kept: (.{1,200}?)(?:"
                    + SealCheck.REMOVED + "(.*))?");
    private static final Pattern BOUND = Pattern.compile("the ledger keeps (.*); before: .*");
    private static final Pattern AGE = Pattern.compile("([^,]+?)(?:, the newest \\d+)?");

    private final History history;
    private final TreeMap<Long, String> bounds = new TreeMap<>();
    private final List<Removal> all = new ArrayList<>();
    private IdRanges believed = IdRanges.NONE;

    private Removals(History history) {
        this.history = history;
    }

    /** Reads all notes. */
    static Removals of(History history) {
        Removals removals = new Removals(history);
        removals.pages("BOUNDED", view -> {
            Matcher bound = BOUND.matcher(view.change().text());
            if (bound.matches()) {
                removals.bounds.put(view.id(), bound.group(1));
            }
        });
        removals.pages("REMOVED", removals::read);
        return removals;
    }

    /** {@return the notes, the newest first} */
    List<Removal> all() {
        return all;
    }

    /** {@return the numbers of runs whose lines were removed by notes that are believed} */
    IdRanges believed() {
        return believed;
    }

    private interface Reader {
        void read(ChangeView view);
    }

    private void pages(String kind, Reader reader) {
        Optional<Long> before = Optional.empty();
        List<ChangeView> page;
        do {
            page = history.changes(new ChangeFilter(
                    Optional.empty(),
                    Optional.of(kind),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    before,
                    PAGE));
            page.forEach(reader::read);
            before = page.isEmpty()
                    ? before
                    : Optional.of(page.get(page.size() - 1).id());
        } while (page.size() == PAGE);
    }

    private void read(ChangeView view) {
        Change change = view.change();
        Matcher note = NOTE.matcher(change.text());
        IdRanges lines = IdRanges.NONE;
        Optional<String> doubt = Optional.of("it is not what retention writes");
        if (note.matches()) {
            try {
                lines = note.group(5) == null ? IdRanges.NONE : IdRanges.parse(note.group(5));
                doubt = doubt(view, note, lines);
            } catch (IllegalArgumentException | DateTimeException garbage) {
                doubt = Optional.of("it is not what retention writes: " + garbage.getMessage());
            }
        }
        if (doubt.isEmpty()) {
            believed = believed.plus(lines);
        }
        all.add(new Removal(view.id(), view.at(), change.who(), change.origin(), change.text(), lines, doubt));
    }

    private Optional<String> doubt(ChangeView view, Matcher note, IdRanges lines) {
        long count = Long.parseLong(note.group(1));
        if (!lines.isEmpty() && lines.count() != count) {
            return Optional.of("it counts " + count + " lines and names " + lines.count());
        }
        String kept = note.group(4);
        Optional<JobKey> job = view.change().job();
        if (kept.equals(Keep.ALL.toString())) {
            return Optional.of("it goes by bounds that keep everything");
        }
        if (job.isPresent() ? !wereBoundsOf(job.get(), kept, view.id()) : !kept.equals(boundsBefore(view.id()))) {
            return Optional.of("it goes by the bounds '" + kept + "', which were not in force");
        }
        Matcher age = AGE.matcher(kept);
        boolean byNumberAlone = kept.startsWith("the newest ");
        if (!byNumberAlone && age.matches()) {
            Duration least = Durations.parse(age.group(1));
            Instant last = Instant.parse(note.group(3));
            boolean byNumberToo = kept.contains(", the newest ");
            if (!byNumberToo && last.plus(least).isAfter(view.at().plus(Duration.ofMinutes(5)))) {
                return Optional.of("what it removed was planned up to " + last + ", which its bounds kept");
            }
        }
        return Optional.empty();
    }

    private boolean wasDroppedAfter(JobKey key, long note) {
        ChangeFilter dropped = new ChangeFilter(
                Optional.of(key),
                Optional.of("DROPPED"),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                1);
        return history.changes(dropped).stream().anyMatch(change -> change.id() > note);
    }

    private String boundsBefore(long note) {
        var bound = bounds.lowerEntry(note);
        return bound == null ? Keep.ALL.toString() : bound.getValue();
    }

    /** A job that is there no more cannot be asked; its name may be another job's now. */
    private boolean wereBoundsOf(JobKey key, String kept, long note) {
        Optional<Integer> newest = history.job(key).map(view -> view.row().version());
        if (newest.isEmpty() || wasDroppedAfter(key, note)) {
            return true;
        }
        for (int version = newest.get(); version > Math.max(0, newest.get() - MOST_VERSIONS); version--) {
            if (history.version(key, version)
                    .map(Job::keep)
                    .map(Keep::toString)
                    .filter(kept::equals)
                    .isPresent()) {
                return true;
            }
        }
        return false;
    }
}
