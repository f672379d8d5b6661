package dev.brume.internal.notice;

import dev.brume.CalendarName;
import dev.brume.JobName;
import dev.brume.history.CauseRow;
import dev.brume.history.NoticeRow;
import dev.brume.internal.text.Digests;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Sighting;
import dev.brume.notice.Trouble;
import dev.brume.schedule.DayCalendar;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * Decides what is told of what was seen: a first time at once, what repeats together, many at once as one, and the end of it once.
 *
 * <p>It is given the causes as they stand and hands back what they become, and what is to be sent. Confined to one thread.
 */
public final class NoticeDecider {
    /** From how many causes on, within a {@link #MOMENT}, a channel is told of them as one. */
    public static final int MANY = 5;

    /** How far apart the beginnings of causes may be that are told as one. */
    public static final Duration MOMENT = Duration.ofMinutes(1);

    /** As long as nothing new came for so long, what comes is no longer part of what was told as one. */
    public static final Duration STORM = Duration.ofMinutes(10);

    private static final int MOST_MEMBERS = 500;

    private final NoticeRules rules;
    private final long epoch;
    private final Instant now;
    private final Function<CalendarName, @Nullable DayCalendar> calendars;
    private final Map<String, CauseRow> known;
    private final Map<String, CauseRow> changed = new LinkedHashMap<>();
    private final List<NoticeRow> notices = new ArrayList<>();
    private final Map<String, List<First>> firsts = new LinkedHashMap<>();
    private final Set<JobName> begun = new LinkedHashSet<>();

    /**
     * Begins.
     *
     * @param epoch of the database, for the ids of notices
     * @param known the causes that may be concerned, by key
     * @param calendars gives the days of a calendar
     */
    public NoticeDecider(
            NoticeRules rules,
            long epoch,
            Instant now,
            Map<String, CauseRow> known,
            Function<CalendarName, @Nullable DayCalendar> calendars) {
        this.rules = rules;
        this.epoch = epoch;
        this.now = now;
        this.known = new HashMap<>(known);
        this.calendars = calendars;
    }

    /** What a channel is to be told, of all rules that concern it. */
    private record Want(NoticeKind kind, Duration digest, boolean recovery) {
        Want and(Want other) {
            NoticeKind more = kind.compareTo(other.kind) >= 0 ? kind : other.kind;
            Duration sooner = digest.compareTo(other.digest) <= 0 ? digest : other.digest;
            return new Want(more, sooner, recovery || other.recovery);
        }
    }

    /** What a channel is told for the first time. */
    private record First(String channel, CauseRow cause, Sighting sighting, Want want) {}

    /** {@return the keys of the causes of what is told as one, of all channels} */
    public static Set<String> keysOfMany(NoticeRules rules) {
        Set<String> keys = new LinkedHashSet<>();
        rules.channels().keySet().forEach(channel -> keys.add(Trouble.WIDE.of(channel)));
        return keys;
    }

    private Optional<CauseRow> cause(String key) {
        return Optional.ofNullable(known.get(key)).filter(CauseRow::isOpen);
    }

    private void keep(CauseRow cause) {
        known.put(cause.key(), cause);
        changed.put(cause.key(), cause);
    }

    /** Takes note of something. */
    public void saw(Sighting sighting) {
        List<NoticeRule> concerning = rules.concerning(sighting.job().map(Sighting.OfJob::name), tags(sighting));
        if (concerning.isEmpty()) {
            return;
        }
        Trouble trouble = sighting.kind().trouble();
        Optional<CauseRow> open = cause(sighting.key());
        CauseRow before = open.orElseGet(() -> begins(trouble, sighting));
        boolean counts = isCounted(sighting.kind(), concerning);
        int row = before.inARow() + (counts ? (int) Math.min(sighting.times(), Integer.MAX_VALUE / 2) : 0);
        Map<String, Want> wants = wants(concerning, sighting, row);
        if (wants.isEmpty() && !counts) {
            return;
        }
        boolean changes = !before.print().equals(sighting.print());
        CauseRow cause = before.seen(
                sighting.at().isAfter(before.lastAt()) ? sighting.at() : before.lastAt(),
                sighting.times(),
                row,
                sighting.print(),
                sighting.title());
        if (cause.silence().isPresent() && (changes || !cause.isSilenced(now))) {
            cause = cause.silenced(Optional.empty())
                    .tellingAnew(cause.told().stream()
                            .map(told -> told.kinds(Set.of()))
                            .toList());
        }
        keep(cause);
        if (open.isEmpty() && trouble.endsWithSuccess()) {
            sighting.job().map(Sighting.OfJob::name).ifPresent(begun::add);
        }
        wants.forEach((channel, want) -> tell(channel, want, sighting));
    }

    /** How often in a row counts where a rule asks for it, before anything is told. */
    private static boolean isCounted(NoticeKind kind, List<NoticeRule> concerning) {
        return switch (kind) {
            case FAILED ->
                concerning.stream().anyMatch(rule -> rule.failedInARow().isPresent());
            case SKIPPED_IN_A_ROW ->
                concerning.stream().anyMatch(rule -> rule.skippedInARow().isPresent());
            default -> false;
        };
    }

    /** What comes again soon after it was over was told lately: it is gathered with what was to be told together anyway. */
    private CauseRow begins(Trouble trouble, Sighting sighting) {
        CauseRow anew =
                CauseRow.begins(trouble, sighting.subject(), sighting.job().map(Sighting.OfJob::id), sighting.at());
        CauseRow old = known.get(sighting.key());
        return old == null
                ? anew
                : anew.tellingAnew(old.told().stream()
                        .filter(told ->
                                told.at().plusMillis(told.digestMillis()).isAfter(now))
                        .toList());
    }

    private static Set<String> tags(Sighting sighting) {
        return sighting.job().map(Sighting.OfJob::tags).orElse(Set.of());
    }

    private Map<String, Want> wants(List<NoticeRule> concerning, Sighting sighting, int row) {
        Map<String, Want> wants = new LinkedHashMap<>();
        for (NoticeRule rule : concerning) {
            asked(rule, sighting, row)
                    .ifPresent(kind -> rule.to().stream()
                            .filter(rules.channels()::containsKey)
                            .forEach(channel ->
                                    wants.merge(channel, new Want(kind, rule.digest(), rule.recovery()), Want::and)));
        }
        return wants;
    }

    /** {@return what a rule has told of something, the most that it asks for} */
    private static Optional<NoticeKind> asked(NoticeRule rule, Sighting sighting, int row) {
        Set<NoticeKind> kinds = rule.kinds();
        return switch (sighting.kind()) {
            case FAILED -> {
                if (rule.failedInARow().isPresent()
                        && row >= rule.failedInARow().getAsInt()) {
                    yield Optional.of(NoticeKind.FAILED_IN_A_ROW);
                }
                yield kinds.contains(NoticeKind.FAILED)
                        ? Optional.of(NoticeKind.FAILED)
                        : Optional.of(NoticeKind.ATTEMPT_FAILED).filter(kinds::contains);
            }
            case SKIPPED_IN_A_ROW ->
                Optional.of(NoticeKind.SKIPPED_IN_A_ROW)
                        .filter(kind -> rule.skippedInARow().isPresent()
                                && row >= rule.skippedInARow().getAsInt());
            case LATE ->
                Optional.of(NoticeKind.LATE)
                        .filter(kind -> rule.late()
                                .filter(by -> millis(sighting, "lateMillis") >= by.toMillis())
                                .isPresent());
            case TOOK_LONGER ->
                Optional.of(NoticeKind.TOOK_LONGER)
                        .filter(kind -> rule.tookLonger()
                                        .filter(than -> millis(sighting, "tookMillis") >= than.toMillis())
                                        .isPresent()
                                || rule.tookLongerThanUsual().isPresent()
                                        && millis(sighting, "percentile")
                                                >= rule.tookLongerThanUsual().getAsInt());
            default -> Optional.of(sighting.kind()).filter(kinds::contains);
        };
    }

    private static long millis(Sighting sighting, String fact) {
        return Optional.ofNullable(sighting.facts().get(fact))
                .map(Long::parseLong)
                .orElse(-1L);
    }

    private void tell(String channel, Want want, Sighting sighting) {
        CauseRow cause = Objects.requireNonNull(known.get(sighting.key()));
        CauseRow.Told told = cause.told(channel)
                .orElseGet(() -> CauseRow.Told.nothing(channel, now, want.digest.toMillis(), want.recovery));
        long folded = told.folded() + sighting.times();
        if (cause.isSilenced(now)) {
            keep(cause.telling(told.folded(folded, Optional.empty())));
        } else if (told.kinds().contains(want.kind)) {
            Instant due = told.digestAt().orElseGet(() -> digestAt(channel, told.at(), want.digest));
            keep(cause.telling(told.folded(folded, Optional.of(due))));
        } else {
            Set<NoticeKind> kinds = EnumSet.of(want.kind);
            kinds.addAll(told.kinds());
            Instant due = told.digestAt().orElseGet(() -> digestAt(channel, now, want.digest));
            CauseRow.Told begun = told.kinds().isEmpty()
                    ? CauseRow.Told.nothing(channel, now, want.digest.toMillis(), want.recovery)
                    : told;
            CauseRow next = cause.telling(
                    begun.kinds(kinds).at(now, /* goesOn= */ true).folded(told.folded(), Optional.of(due)));
            keep(next);
            firsts.computeIfAbsent(channel, any -> new ArrayList<>()).add(new First(channel, next, sighting, want));
        }
    }

    /** Digests are not gathered while a channel is quiet, only to be sent all at once. */
    private Instant digestAt(String channel, Instant since, Duration digest) {
        Instant due = since.plus(digest);
        Instant free = quietUntil(channel).orElse(due);
        return due.isAfter(free) ? due : free;
    }

    private Optional<Instant> quietUntil(String channel) {
        return Optional.ofNullable(rules.channels().get(channel))
                .flatMap(Channel::quiet)
                .flatMap(quiet -> quiet.over(now, calendars));
    }

    /** Takes note that a cause is over. */
    public void over(String key, Instant at, Map<String, String> facts) {
        Optional<CauseRow> open = cause(key);
        if (open.isEmpty()) {
            return;
        }
        firsts.values().forEach(pending -> {
            List<First> own = pending.stream()
                    .filter(first -> first.cause.key().equals(key))
                    .toList();
            own.forEach(this::tellAlone);
            pending.removeAll(own);
        });
        CauseRow cause = open.get();
        List<CauseRow.Told> all = new ArrayList<>();
        for (CauseRow.Told told : cause.told()) {
            boolean isTold = told.open() && told.recovery() && !told.within() && cause.trouble() != Trouble.NONE;
            if (isTold) {
                String token = told.at().toString();
                add(
                        told.channel(),
                        cause,
                        NoticeKind.RECOVERED,
                        token,
                        NoticeWords.ofRecovery(cause, at),
                        NoticeWords.facts(cause, facts));
            }
            // What was still to be told together is among what the end of it counts.
            all.add(isTold ? told.at(now, /* goesOn= */ false).folded(0, Optional.empty()) : told);
        }
        keep(cause.tellingAnew(all).closed(at));
    }

    /** Tells what of a cause is due to be told together. */
    public void due(String key) {
        CauseRow cause = known.get(key);
        if (cause == null) {
            return;
        }
        if (cause.trouble() == Trouble.WIDE && cause.isOpen() && areOver(cause.members())) {
            over(key, now, Map.of("members", NoticeWords.listed(cause.members())));
            return;
        }
        List<CauseRow.Told> all = new ArrayList<>();
        for (CauseRow.Told told : cause.told()) {
            boolean isDue = told.digestAt().filter(at -> !at.isAfter(now)).isPresent();
            all.add(isDue ? due(cause, told) : told);
        }
        CauseRow next = cause.tellingAnew(all);
        boolean isOver = cause.trouble() == Trouble.NONE && next.nextAt().isEmpty();
        keep(isOver && cause.isOpen() ? next.closed(now) : next);
    }

    private boolean areOver(List<String> members) {
        return members.stream().allMatch(member -> cause(member).isEmpty());
    }

    private CauseRow.Told due(CauseRow cause, CauseRow.Told told) {
        Optional<Instant> next = Optional.of(digestAt(told.channel(), now, Duration.ofMillis(told.digestMillis())));
        if (told.folded() > 0) {
            String token = told.at().toString();
            add(
                    told.channel(),
                    cause,
                    NoticeKind.AGAIN,
                    token,
                    NoticeWords.ofMore(cause, told),
                    NoticeWords.factsOfMore(cause, told));
            return told.at(now, cause.isOpen()).folded(0, next);
        }
        if (cause.trouble() == Trouble.WIDE && cause.isOpen()) {
            return told.folded(0, next);
        }
        // It has not come again for a while: should it, that is told at once.
        return told.kinds(isLasting(cause) ? told.kinds() : Set.of()).folded(0, Optional.empty());
    }

    /** What is seen again and again as long as it lasts was told when it began. */
    private static boolean isLasting(CauseRow cause) {
        return switch (cause.trouble()) {
            case SILENT, DEADLINE, INSTANCE, LANE, TALLY, SEAL, FINDING, LATE, LONG -> true;
            default -> false;
        };
    }

    private void add(
            String channel, CauseRow cause, NoticeKind kind, String token, String title, Map<String, String> facts) {
        Channel to = rules.channels().get(channel);
        if (to == null) {
            return;
        }
        String id = Digests.sha256(
                Long.toString(epoch), cause.key(), cause.openedAt().toString(), channel, kind.word(), token);
        Optional<JobName> job = cause.jobName();
        Notice notice = new Notice(id.substring(0, 32), cause.key(), channel, kind, job, now, title, facts);
        Instant next = quietUntil(channel).orElse(now);
        notices.add(NoticeRow.waiting(notice, next, next.plus(to.giveUpAfter())));
    }

    /** Ends it: what is told for the first time is told by itself, or as one if it is much. */
    public void end() {
        firsts.forEach(this::tellFirsts);
        firsts.clear();
    }

    private void tellFirsts(String channel, List<First> all) {
        List<First> alone = all.stream()
                .filter(first -> first.sighting.kind().trouble() == Trouble.NONE)
                .toList();
        alone.forEach(this::tellAlone);
        List<First> troubles = new ArrayList<>(all);
        troubles.removeAll(alone);
        if (troubles.isEmpty()) {
            return;
        }
        CauseRow wide = wide(channel);
        boolean isTold = wide.told(channel).isPresent();
        int count = (int) wide.count() + troubles.size();
        if (!isTold && count <= MANY) {
            troubles.forEach(this::tellAlone);
            // As long as they are told by themselves this only counts them, and is nothing that goes on.
            keep(wide.seen(now, troubles.size(), count, "", "")
                    .standingFor(members(wide, troubles))
                    .closed(now));
            return;
        }
        String title = NoticeWords.ofMany(
                troubles.stream().map(first -> first.sighting.kind().trouble()).toList(), wide.count() > 0);
        CauseRow seen = wide.seen(now, troubles.size(), count, "", title).standingFor(members(wide, troubles));
        Duration digest = troubles.stream()
                .map(first -> first.want.digest)
                .min(Duration::compareTo)
                .orElseThrow();
        boolean recovery = troubles.stream().anyMatch(first -> first.want.recovery);
        Instant due = digestAt(channel, now, digest);
        if (isTold) {
            CauseRow.Told told = seen.told(channel).orElseThrow();
            keep(seen.telling(told.folded(
                    told.folded() + troubles.size(), Optional.of(told.digestAt().orElse(due)))));
        } else {
            keep(seen.telling(CauseRow.Told.nothing(channel, now, digest.toMillis(), recovery)
                    .kinds(EnumSet.of(NoticeKind.WIDESPREAD))
                    .at(now, /* goesOn= */ true)
                    .folded(0, Optional.of(due))));
            Map<String, String> facts = new LinkedHashMap<>();
            facts.put("count", Integer.toString(troubles.size()));
            facts.put(
                    "members",
                    NoticeWords.listed(troubles.stream()
                            .map(first -> first.sighting.title())
                            .toList()));
            add(channel, seen, NoticeKind.WIDESPREAD, "many", title, facts);
        }
        // Each of them is told with the others, and so is its end.
        troubles.forEach(first -> {
            CauseRow cause = Objects.requireNonNull(known.get(first.cause.key()));
            cause.told(channel).ifPresent(told -> keep(cause.telling(told.amongMany())));
        });
    }

    /** What goes wrong a while later is another matter: what was told as one before goes on under a name of its own until all of it is over. */
    private CauseRow wide(String channel) {
        CauseRow known = this.known.get(Trouble.WIDE.of(channel));
        if (known == null) {
            return begun(channel);
        }
        boolean stillCounts = known.told().isEmpty()
                ? !known.openedAt().plus(MOMENT).isBefore(now)
                : known.isOpen() && !known.lastAt().plus(STORM).isBefore(now);
        if (!stillCounts && known.isOpen()) {
            keep(known.under(known.key() + " " + known.openedAt()));
        }
        return stillCounts ? known : begun(channel);
    }

    private CauseRow begun(String channel) {
        return CauseRow.begins(Trouble.WIDE, channel, Optional.empty(), now);
    }

    private static List<String> members(CauseRow wide, List<First> troubles) {
        Set<String> keys = new LinkedHashSet<>(wide.members());
        troubles.forEach(first -> keys.add(first.cause.key()));
        return keys.stream().limit(MOST_MEMBERS).toList();
    }

    private void tellAlone(First first) {
        Sighting sighting = first.sighting;
        String title = NoticeWords.ofFirst(first.cause, first.want.kind, sighting);
        Map<String, String> facts = NoticeWords.factsOfFirst(first.cause, first.want.kind, sighting);
        add(first.channel, first.cause, first.want.kind, sighting.token(), title, facts);
    }

    /** {@return the causes that have changed} */
    public List<CauseRow> causes() {
        return List.copyOf(changed.values());
    }

    /** {@return the jobs with which something began to go wrong that a success ends} */
    public Set<JobName> begun() {
        return begun;
    }

    /** {@return what is to be sent, in its order} */
    public List<NoticeRow> notices() {
        return notices;
    }
}
