package dev.brume.internal.document;

import dev.brume.CalendarName;
import dev.brume.notice.Channel;
import dev.brume.notice.Quiet;
import dev.brume.notice.Way;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Zones;
import java.time.Duration;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.format.DateTimeParseException;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/** Reads and writes channels as documents. Stateless and safe for use by many threads. */
public final class ChannelDocument {
    private static final List<String> WAYS = List.of("webhook", "mail", "program", "log", "code");
    private static final List<String> KEYS =
            List.of("webhook", "mail", "program", "log", "code", "timeLimit", "giveUpAfter", "quiet", "templates");
    private static final Duration TIME_LIMIT = Duration.ofSeconds(10);

    private ChannelDocument() {}

    /**
     * Reads a channel.
     *
     * @param name in full
     * @param namespace whose calendars it may name
     * @param zone of quiet hours that name none
     * @param problems receives whatever is wrong, all of it
     * @return empty if anything was wrong
     */
    public static Optional<Channel> read(
            String name,
            String namespace,
            String path,
            Object document,
            Optional<ZoneId> zone,
            List<DocumentProblem> problems) {
        int before = problems.size();
        Optional<Fields> opened = Fields.open(path, document, KEYS, problems);
        if (opened.isEmpty()) {
            return Optional.empty();
        }
        Fields fields = opened.get();
        long ways = WAYS.stream().filter(fields::has).count();
        if (ways != 1) {
            fields.noteHere(
                    "expected one of webhook: {url: ...}, mail: {...}, program: [...], log: true and code: NAME");
            return Optional.empty();
        }
        Optional<Way> way = way(fields);
        Duration age = fields.duration("giveUpAfter").orElse(Channel.AGE);
        Optional<Quiet> quiet = quiet(fields, namespace, zone);
        Map<String, String> templates = fields.textMap("templates");
        if (way.isEmpty() || problems.size() > before) {
            return Optional.empty();
        }
        return fields.readHere(() -> new Channel(name, way.get(), age, quiet, templates));
    }

    private static Optional<Way> way(Fields fields) {
        if (fields.has("webhook")) {
            return webhook(fields);
        } else if (fields.has("mail")) {
            return mail(fields);
        } else if (fields.has("program")) {
            Duration limit = fields.duration("timeLimit").orElse(TIME_LIMIT);
            return fields.texts("program").flatMap(command -> fields.readHere(() -> new Way.Program(command, limit)));
        } else if (fields.has("code")) {
            return fields.text("code").flatMap(receiver -> fields.readHere(() -> new Way.Code(receiver)));
        }
        Optional<Boolean> logs = fields.flag("log");
        if (logs.filter(on -> !on).isPresent()) {
            fields.note("log", "expected true (leave the channel out if nobody is to be told)");
        }
        return logs.map(on -> new Way.Log());
    }

    private static Optional<Way> webhook(Fields fields) {
        Duration limit = fields.duration("timeLimit").orElse(TIME_LIMIT);
        return fields.mapping("webhook", List.of("url", "headers", "secret", "batch"))
                .flatMap(hook -> {
                    Optional<String> url = hook.text("url");
                    if (!hook.has("url")) {
                        hook.noteHere("has no url");
                    }
                    Map<String, String> headers = hook.textMap("headers");
                    Optional<String> secret = hook.text("secret");
                    int batch = hook.integer("batch").orElse(1);
                    return url.flatMap(to -> hook.readHere(() -> new Way.Webhook(to, headers, secret, batch, limit)));
                });
    }

    private static Optional<Way> mail(Fields fields) {
        return fields.mapping("mail", List.of("server", "security", "user", "password", "from", "to"))
                .flatMap(mail -> {
                    Map<String, Way.Mail.Security> words = new LinkedHashMap<>();
                    words.put("startTls", Way.Mail.Security.STARTTLS);
                    words.put("tls", Way.Mail.Security.TLS);
                    words.put("none", Way.Mail.Security.NONE);
                    Way.Mail.Security security = mail.word("security", words).orElse(Way.Mail.Security.STARTTLS);
                    List.of("server", "from", "to").stream()
                            .filter(key -> !mail.has(key))
                            .forEach(key -> mail.noteHere("has no " + key));
                    Optional<String> server = mail.text("server");
                    Optional<String> from = mail.text("from");
                    Optional<List<String>> to = mail.texts("to");
                    Optional<String> user = mail.text("user");
                    Optional<String> password = mail.text("password");
                    if (server.isEmpty() || from.isEmpty() || to.isEmpty()) {
                        return Optional.empty();
                    }
                    return mail.readHere(
                            () -> new Way.Mail(server.get(), security, user, password, from.get(), to.get()));
                });
    }

    private static Optional<Quiet> quiet(Fields fields, String namespace, Optional<ZoneId> usual) {
        return fields.mapping("quiet", List.of("from", "until", "calendar", "zone"))
                .flatMap(quiet -> {
                    Optional<ZoneId> own =
                            quiet.text("zone").flatMap(text -> quiet.read("zone", () -> Zones.parse(text)));
                    Optional<LocalTime> from = time(quiet, "from");
                    Optional<LocalTime> until = time(quiet, "until");
                    Optional<CalendarName> days = quiet.text("calendar")
                            .flatMap(text -> quiet.read("calendar", () -> CalendarName.in(namespace, text)));
                    if (own.isEmpty() && usual.isEmpty() && !quiet.has("zone")) {
                        quiet.noteHere("has no zone (add zone: Europe/Lisbon, here or for the whole file)");
                    }
                    return own.or(() -> usual)
                            .flatMap(zone -> quiet.readHere(() -> new Quiet(from, until, days, zone)));
                });
    }

    private static Optional<LocalTime> time(Fields quiet, String key) {
        return quiet.scalar(key)
                .flatMap(text -> quiet.read(key, () -> {
                    try {
                        return LocalTime.parse(text);
                    } catch (DateTimeParseException e) {
                        throw new IllegalArgumentException(
                                "'" + text + "' is not a time of day (expected \"22:00\")", e);
                    }
                }));
    }

    /** Writes a channel as {@link #read} reads it back. */
    public static Map<String, Object> write(Channel channel) {
        Map<String, Object> document = new LinkedHashMap<>();
        Way way = channel.way();
        if (way instanceof Way.Webhook hook) {
            Map<String, Object> webhook = new LinkedHashMap<>();
            webhook.put("url", hook.url());
            if (!hook.headers().isEmpty()) {
                webhook.put("headers", new TreeMap<>(hook.headers()));
            }
            hook.secret().ifPresent(secret -> webhook.put("secret", secret));
            if (hook.batch() > 1) {
                webhook.put("batch", hook.batch());
            }
            document.put("webhook", webhook);
            limit(document, hook.timeLimit());
        } else if (way instanceof Way.Mail mail) {
            document.put("mail", mail(mail));
        } else if (way instanceof Way.Program program) {
            document.put("program", program.command());
            limit(document, program.timeLimit());
        } else if (way instanceof Way.Code code) {
            document.put("code", code.receiver());
        } else {
            document.put("log", true);
        }
        if (!channel.giveUpAfter().equals(Channel.AGE)) {
            document.put("giveUpAfter", Durations.format(channel.giveUpAfter()));
        }
        channel.quiet().ifPresent(quiet -> document.put("quiet", quiet(quiet)));
        if (!channel.templates().isEmpty()) {
            document.put("templates", new TreeMap<>(channel.templates()));
        }
        return document;
    }

    private static void limit(Map<String, Object> document, Duration limit) {
        if (!limit.equals(TIME_LIMIT)) {
            document.put("timeLimit", Durations.format(limit));
        }
    }

    private static Map<String, Object> mail(Way.Mail mail) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("server", mail.server());
        switch (mail.security()) {
            case STARTTLS -> {
                // What holds unless it is stated.
            }
            case TLS -> document.put("security", "tls");
            case NONE -> document.put("security", "none");
        }
        mail.user().ifPresent(user -> document.put("user", user));
        mail.password().ifPresent(password -> document.put("password", password));
        document.put("from", mail.from());
        document.put("to", mail.to());
        return document;
    }

    private static Map<String, Object> quiet(Quiet quiet) {
        Map<String, Object> document = new LinkedHashMap<>();
        quiet.from().ifPresent(from -> document.put("from", from.toString()));
        quiet.until().ifPresent(until -> document.put("until", until.toString()));
        quiet.days().ifPresent(days -> document.put("calendar", days.reference()));
        document.put("zone", quiet.zone().getId());
        return document;
    }
}
