package dev.brume.http.internal.console;

import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.http.Caller;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Param;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * What all pages have in common: who looks, as of when, in which zone, and where everything is. Immutable.
 *
 * @param title of the page
 * @param here the part of the navigation that the page is in
 * @param base the path that all addresses begin with
 * @param caller who looks
 * @param signsOut whether they can sign out here
 * @param zone in which times are shown
 * @param now the database's clock
 * @param asOf as of when everything is shown, if it is not now
 */
public record Frame(
        String title,
        String here,
        String base,
        Caller caller,
        boolean signsOut,
        ZoneId zone,
        Instant now,
        Optional<Instant> asOf) {
    /** The zone in which a page shows times; kept in a cookie. */
    static final Param<ZoneId> ZONE = Param.zone("zone", "The zone in which times are shown.");

    private static final ZoneId UTC = ZoneId.of("UTC");
    static final String ZONE_COOKIE = "brume-zone";
    private static final DateTimeFormatter SECONDS = DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss", Locale.ROOT);
    private static final DateTimeFormatter DAY = DateTimeFormatter.ofPattern("EEE uuuu-MM-dd", Locale.ENGLISH);
    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("HH:mm:ss", Locale.ROOT);

    /** A place in the navigation. */
    public record Place(String id, String word, String path) {}

    private static final List<Place> PLACES = List.of(
            new Place("board", "Board", "/"),
            new Place("jobs", "Jobs", "/jobs"),
            new Place("runs", "Runs", "/runs"),
            new Place("coming", "Coming", "/coming"),
            new Place("instances", "Instances", "/instances"),
            new Place("notices", "Notices", "/notices"),
            new Place("changes", "Changes", "/changes"),
            new Place("tally", "Tally", "/tally"),
            new Place("doctor", "Doctor", "/doctor"),
            new Place("limits", "Limits", "/limits"),
            new Place("calendars", "Calendars", "/calendars"),
            new Place("tokens", "Tokens", "/tokens"));

    static Frame of(Call call, String here, String title, boolean signsOut) {
        return new Frame(
                title,
                here,
                call.incoming().base(),
                call.caller(),
                signsOut,
                zone(call),
                call.history().now(),
                call.asOf());
    }

    private static ZoneId zone(Call call) {
        Optional<ZoneId> given = call.get(ZONE);
        return given.orElseGet(
                () -> call.incoming().cookie(ZONE_COOKIE).flatMap(Frame::kept).orElse(UTC));
    }

    private static Optional<ZoneId> kept(String cookie) {
        try {
            return Optional.of(ZONE.reading().apply(cookie));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    /** {@return the navigation, as far as somebody may go} */
    public List<Place> places() {
        return PLACES.stream()
                .filter(place -> switch (place.id) {
                    case "instances", "notices", "doctor" -> caller.mayEverywhere(Role.VIEWER);
                    case "tokens" -> caller.mayEverywhere(Role.ADMIN);
                    default -> true;
                })
                .toList();
    }

    /** {@return the address of a path here, which keeps as of when things are shown} */
    public String href(String path) {
        return base
                + path
                + asOf.map(then -> (path.contains("?") ? "&" : "?") + "asOf=" + then)
                        .orElse("");
    }

    /** {@return the address of a job} */
    public String job(JobName job) {
        return href(jobPath(job));
    }

    /** {@return the path of a job} */
    static String jobPath(JobName job) {
        return "/jobs/" + encoded(job.namespace()) + "/" + encoded(job.name());
    }

    /** {@return the address of a run} */
    public String run(long run) {
        return href("/runs/" + run);
    }

    static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8).replace("+", "%20");
    }

    /** {@return a file that pages use} */
    public String asset(String file) {
        return base + "/assets/" + file;
    }

    /** {@return a time to the second} */
    public String time(Instant at) {
        return SECONDS.format(at.atZone(zone));
    }

    /** {@return a time; empty if there is none} */
    public String time(Optional<Instant> at) {
        return at.map(this::time).orElse("");
    }

    /** {@return the time of day} */
    public String clock(Instant at) {
        return CLOCK.format(at.atZone(zone));
    }

    /** {@return the day} */
    public String day(Instant at) {
        return DAY.format(at.atZone(zone));
    }

    /** {@return how far a time is from now, such as "in 4 min" or "3 h ago"} */
    public String distance(Instant at) {
        Duration distance = Duration.between(now, at);
        String size = size(Duration.ofSeconds(Math.max(1, distance.abs().toSeconds())));
        return distance.isNegative() ? size + " ago" : "in " + size;
    }

    /** {@return a duration in one or two units, to be read at a glance} */
    public static String size(Duration duration) {
        long millis = duration.toMillis();
        if (millis < 10_000 && millis % 1_000 != 0 || millis == 0) {
            return millis < 1_000 ? millis + " ms" : String.format(Locale.ROOT, "%.1f s", millis / 1000.0);
        }
        long seconds = duration.toSeconds();
        if (seconds < 120) {
            return seconds + " s";
        }
        if (seconds < 7_200) {
            return seconds / 60 + " min";
        }
        if (seconds < 86_400) {
            return seconds / 3_600 + " h " + seconds % 3_600 / 60 + " min";
        }
        long days = seconds / 86_400;
        return days + (days == 1 ? " day" : " days") + (days < 3 ? " " + seconds % 86_400 / 3_600 + " h" : "");
    }

    /** {@return whether somebody may order runs of a namespace from this page; nobody may in the past} */
    public boolean mayOrder(String namespace) {
        return asOf.isEmpty() && caller.may(Role.OPERATOR, namespace);
    }

    /** {@return whether they may order anything anywhere} */
    public boolean mayOrder() {
        return asOf.isEmpty()
                && caller.highest().filter(role -> role.includes(Role.OPERATOR)).isPresent();
    }

    /** {@return whether somebody may define jobs of a namespace from this page; nobody may in the past} */
    public boolean mayDefine(String namespace) {
        return asOf.isEmpty() && caller.may(Role.AUTHOR, namespace);
    }

    /** {@return whether they may define anything anywhere} */
    public boolean mayDefine() {
        return asOf.isEmpty()
                && caller.highest().filter(role -> role.includes(Role.AUTHOR)).isPresent();
    }

    /** {@return whether they have a role everywhere; nobody has in the past} */
    public boolean mayEverywhere(Role role) {
        return asOf.isEmpty() && caller.mayEverywhere(role);
    }

    /** {@return what they may do, in words} */
    public String grants() {
        return caller.grants().isEmpty()
                ? "may do nothing here"
                : caller.grants().stream().map(Object::toString).collect(Collectors.joining(", "));
    }
}
