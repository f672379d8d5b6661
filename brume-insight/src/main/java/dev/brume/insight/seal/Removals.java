package dev.brume.insight.seal;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.History;
import dev.brume.history.IdRanges;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import dev.brume.internal.retention.RemovalNote;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.Deque;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Consumer;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * The notes of retention about the rows that it removed, held against the bounds that were in force and against what seals know of the rows that are gone.
 *
 * <p>Anyone who may add to the change log can write something that looks like a note of retention. A note is believed only if retention would have written it: its bounds were those of
 * the whole at that time, or of a version of the job; it came after the rows that it names were sealed, and is not dated after its own seal; each of those rows was planned in the time
 * that it states, and was old enough, or as many newer ones of its job were there as its bounds keep. Told row by row in the order of seals; confined to one thread.
 */
final class Removals {
    private static final int PAGE = 2000;
    private static final int MOST_VERSIONS = 1000;
    private static final Duration TOLERANCE = Duration.ofMinutes(5);
    private static final Duration MINUTE = Duration.ofMinutes(1);
    private static final Pattern BOUND = Pattern.compile("the ledger keeps (.*); before: .*");

    private final History history;
    private final TreeMap<Long, String> bounds = new TreeMap<>();
    private final TreeMap<Long, Note> notes = new TreeMap<>();
    private final TreeMap<Long, Note> open = new TreeMap<>();
    private final Map<SealedKind, NavigableMap<Long, Named>> named = new EnumMap<>(SealedKind.class);
    private final Map<JobName, Long> present = new HashMap<>();
    private final Map<Optional<JobName>, Long> removedLater = new HashMap<>();
    private final Deque<Note> sealed = new ArrayDeque<>();
    private long presentInAll;
    private long removedLaterInAll;

    private Removals(History history) {
        this.history = history;
    }

    /** A note, and what the seals have shown about it so far. */
    private static final class Note {
        private final ChangeView line;
        private final RemovalNote said;
        private @Nullable String doubt;
        private long lines;
        private long tooYoung;
        private @Nullable String first;

        Note(ChangeView line, RemovalNote said) {
            this.line = line;
            this.said = said;
        }

        Optional<JobName> job() {
            return line.change().job();
        }
    }

    /** Numbers up to one that a note names. */
    private record Named(long last, Note by) {}

    /** Reads all notes. */
    static Removals of(History history) {
        Removals removals = new Removals(history);
        removals.pages("BOUNDED", view -> {
            Matcher bound = BOUND.matcher(view.change().text());
            if (bound.matches()) {
                removals.bounds.put(view.id(), bound.group(1));
            }
        });
        List<ChangeView> found = new ArrayList<>();
        removals.pages("REMOVED", found::add);
        found.sort(Comparator.comparingLong(ChangeView::id));
        found.forEach(removals::read);
        return removals;
    }

    private void pages(String kind, Consumer<ChangeView> reader) {
        ChangeFilter filter = ChangeFilter.newest(PAGE).withKind(kind);
        List<ChangeView> page = history.changes(filter);
        page.forEach(reader);
        while (page.size() == PAGE) {
            page = history.changes(filter.before(page.get(page.size() - 1).id()));
            page.forEach(reader);
        }
    }

    private void read(ChangeView line) {
        Note note;
        try {
            note = new Note(line, RemovalNote.parse(line.change().text()));
            note.doubt = doubt(note).orElse(null);
        } catch (IllegalArgumentException garbage) {
            note = new Note(
                    line, new RemovalNote(SealedKind.LINE, 0, Instant.EPOCH, Instant.EPOCH, Keep.ALL, IdRanges.NONE));
            note.doubt = garbage.getMessage();
        }
        notes.put(line.id(), note);
        open.put(line.id(), note);
        if (note.doubt == null) {
            NavigableMap<Long, Named> ofKind = named.computeIfAbsent(note.said.kind(), kind -> new TreeMap<>());
            for (IdRanges.Range range : note.said.numbers().ranges()) {
                ofKind.put(range.first(), new Named(range.last(), note));
            }
        }
    }

    /** The objections to a note that need no look at any seal. */
    private Optional<String> doubt(Note note) {
        RemovalNote said = note.said;
        if (!said.numbers().isEmpty() && said.numbers().count() != said.count()) {
            return Optional.of(
                    "it counts " + said.count() + " and names " + said.numbers().count());
        }
        if (said.kept().isAll()) {
            return Optional.of("it goes by bounds that keep everything");
        }
        String kept = said.kept().toString();
        boolean inForce = note.job()
                .map(job -> wereBoundsOf(job, kept, note.line.id()))
                .orElseGet(() -> {
                    var bound = bounds.lowerEntry(note.line.id());
                    return bound != null && bound.getValue().equals(kept);
                });
        if (!inForce) {
            return Optional.of("it goes by the bounds '" + kept + "', which were not in force");
        }
        NavigableMap<Long, Named> ofKind = named.getOrDefault(said.kind(), new TreeMap<>());
        for (IdRanges.Range range : said.numbers().ranges()) {
            var before = ofKind.floorEntry(range.last());
            if (before != null && before.getValue().last >= range.first()) {
                return Optional.of("line " + before.getValue().by.line.id() + " says that "
                        + said.kind().row(Math.max(range.first(), before.getKey())) + " was removed before");
            }
        }
        return Optional.empty();
    }

    /** A job that is there no more cannot be asked; its name may be another job's now. */
    private boolean wereBoundsOf(JobName key, String kept, long note) {
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

    private boolean wasDroppedAfter(JobName key, long note) {
        ChangeFilter dropped = ChangeFilter.newest(1).of(key).withKind("DROPPED");
        return history.changes(dropped).stream().anyMatch(change -> change.id() > note);
    }

    /** Tells of a sealed row of the ledger that is there. */
    void present(SealedRow line) {
        line.job().ifPresent(job -> present.merge(job, 1L, Long::sum));
        presentInAll++;
    }

    /**
     * Tells of a sealed row that is gone.
     *
     * @param planned the minute of it
     * @param changes the lines of the change log that were sealed with it or before
     * @param what it is called
     * @return whether a note explains it that is believed so far
     */
    boolean explains(SealedKind kind, long number, Instant planned, IdRanges changes, String what) {
        var entry = named.getOrDefault(kind, new TreeMap<>()).floorEntry(number);
        if (entry == null || entry.getValue().last < number) {
            return false;
        }
        Note note = entry.getValue().by;
        Optional<String> doubt = note.doubt == null ? doubt(note, planned, changes, what) : Optional.of(note.doubt);
        note.doubt = doubt.orElse(null);
        if (doubt.isPresent()) {
            return false;
        }
        note.first = note.first == null ? what : note.first;
        if (kind == SealedKind.LINE) {
            note.lines++;
            removedLater.merge(note.job(), 1L, Long::sum);
            removedLaterInAll++;
        }
        return true;
    }

    private static Optional<String> doubt(Note note, Instant planned, IdRanges changes, String what) {
        if (changes.contains(note.line.id())) {
            return Optional.of("it came before " + what + " was sealed");
        }
        if (planned.isBefore(note.said.first().minus(MINUTE)) || planned.isAfter(note.said.last())) {
            return Optional.of(what + " was planned for " + planned + ", which is not in the time that it states");
        }
        Keep kept = note.said.kept();
        boolean isOld = kept.age()
                .filter(age -> !planned.plus(age).isAfter(note.line.at().plus(TOLERANCE)))
                .isPresent();
        if (!isOld && kept.runs().isEmpty()) {
            return Optional.of(what + " was planned for " + planned + ", which its bounds kept");
        }
        note.tooYoung += isOld ? 0 : 1;
        return Optional.empty();
    }

    /**
     * Tells that a seal was looked through.
     *
     * @param isFull whether more was there to be sealed with it, which the next one covers
     * @return what is not explained after all; empty if all is
     */
    Optional<String> passed(Instant sealedAt, IdRanges changes, boolean isFull) {
        for (IdRanges.Range range : changes.ranges()) {
            Map<Long, Note> some = open.subMap(range.first(), true, range.last(), true);
            some.values().forEach(note -> close(note, sealedAt, ", and was sealed at " + sealedAt));
            some.clear();
        }
        return isFull ? Optional.empty() : recount();
    }

    /** Tells of all that is on record and not sealed; returns what is not explained after all. */
    Optional<String> passed(Instant now, Map<JobName, Long> unsealed) {
        unsealed.forEach((job, count) -> {
            present.merge(job, count, Long::sum);
            presentInAll += count;
        });
        open.values().forEach(note -> close(note, now, ", which is still to come"));
        open.clear();
        return recount();
    }

    private void close(Note note, Instant latest, String words) {
        if (note.doubt == null && note.line.at().isAfter(latest.plus(TOLERANCE))) {
            note.doubt = "it is dated " + note.line.at() + words;
        }
        sealed.add(note);
    }

    /** Holds those notes against their bounds by number of which all is known now, the oldest first. */
    private Optional<String> recount() {
        while (!sealed.isEmpty()) {
            Note note = sealed.remove();
            if (note.lines > 0) {
                removedLater.merge(note.job(), -note.lines, Long::sum);
                removedLaterInAll -= note.lines;
            }
            long least = note.tooYoung == 0 ? 0 : note.said.kept().runs().orElse(0L);
            long left = note.job()
                    .map(job -> present.getOrDefault(job, 0L)
                            + removedLater.getOrDefault(note.job(), 0L)
                            + removedLater.getOrDefault(Optional.<JobName>empty(), 0L))
                    .orElse(presentInAll + removedLaterInAll);
            if (note.doubt == null && left < least) {
                note.doubt = "it says that the newest " + least + " were kept, and only " + left + " were left";
            }
            if (note.doubt != null && note.first != null) {
                return Optional.of(note.first + " was removed");
            }
        }
        return Optional.empty();
    }

    /** {@return the notes, the newest first} */
    List<Removal> all() {
        return notes.descendingMap().values().stream()
                .map(note -> new Removal(note.line, Optional.ofNullable(note.doubt)))
                .toList();
    }
}
