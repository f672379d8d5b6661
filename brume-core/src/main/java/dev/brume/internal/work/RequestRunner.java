package dev.brume.internal.work;

import dev.brume.Failure;
import dev.brume.Mask;
import dev.brume.Work;
import dev.brume.history.RunRow;
import dev.brume.internal.text.Placeholders;
import dev.brume.schedule.Durations;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.TimeSource;
import java.io.IOException;
import java.io.InputStream;
import java.math.BigInteger;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Makes an HTTP request as the work of an attempt.
 *
 * <p>The run's facts are sent along as headers {@code Brume-Run}, {@code Brume-Job}, {@code Brume-Planned},
 * {@code Brume-Attempt} and {@code Brume-Fence}, its trace in {@code traceparent} (W3C Trace Context). Redirects are not followed. The answer's body, up to 64 KiB, is the result;
 * secrets that the request was filled with are masked wherever they come back. {@code Retry-After} is honoured.
 */
final class RequestRunner {
    private static final Duration CONNECT = Duration.ofSeconds(10);
    private static final int LONGEST_EXCERPT = 300;

    /** How many times as long as a secret a form of it may be that stands in a document. */
    private static final int LONGEST_FORM = 6;

    private static final Pattern CHARSET = Pattern.compile("(?i);\\s*charset\\s*=\\s*\"?([^\\s\";]+)");
    private static final int LONGEST_FILE = 64 * 1024;

    private final LeasedRun run;
    private final OutputBuffer output;
    private final TimeSource time;
    private final Consumer<String> result;
    private final Map<String, String> parent;
    private final Map<String, String> traces;
    private final List<String> secrets = new ArrayList<>();

    /** Made when the first request is. */
    private static final class Client {
        static final HttpClient CLIENT = HttpClient.newBuilder()
                .connectTimeout(CONNECT)
                .followRedirects(HttpClient.Redirect.NEVER)
                .build();
    }

    RequestRunner(
            ActiveAttempt attempt,
            OutputBuffer output,
            TimeSource time,
            Consumer<String> result,
            Map<String, String> parent,
            Map<String, String> traces) {
        this.run = attempt.run();
        this.output = output;
        this.time = time;
        this.result = result;
        this.parent = parent;
        this.traces = traces;
    }

    void run(Work.Request work) throws WorkFailed, InterruptedException {
        HttpRequest request = request(work);
        long began = time.nanos();
        try {
            HttpResponse<InputStream> answer = Client.CLIENT.send(request, HttpResponse.BodyHandlers.ofInputStream());
            String body = read(answer);
            long millis = (time.nanos() - began) / 1_000_000;
            output.println(work + " -> " + answer.statusCode() + " after " + millis + "ms");
            result.accept(body);
            if (!work.expects(answer.statusCode())) {
                throw new WorkFailed(
                        unexpected(work, answer.statusCode(), body),
                        Failure.answered(answer.statusCode(), wait(answer)));
            }
        } catch (IOException e) {
            throw new WorkFailed(work + " failed: " + masked(reason(e)), Failure.thrown(e));
        }
    }

    private static String reason(IOException e) {
        String name = e.getClass().getSimpleName();
        return e.getMessage() == null ? name : name + ": " + e.getMessage();
    }

    private static String unexpected(Work.Request work, int status, String body) {
        String expected =
                work.expected().isEmpty() ? "200-299" : work.expected().toString();
        String first = body.strip().lines().findFirst().orElse("");
        String excerpt = first.length() > LONGEST_EXCERPT ? first.substring(0, LONGEST_EXCERPT) + "..." : first;
        return work + " was answered " + status + ", expected " + expected + (excerpt.isEmpty() ? "" : ": " + excerpt);
    }

    /** More is read than is kept, so that what is secret is known as a whole; where it is cut off, as much as a secret may be long is left out. */
    private String read(HttpResponse<InputStream> answer) throws IOException {
        try (InputStream body = answer.body()) {
            byte[] bytes = body.readNBytes(2 * AttemptRunner.LONGEST_RESULT);
            String text = masked(new String(bytes, charset(answer)));
            boolean isWhole = body.read() < 0;
            int longest = LONGEST_FORM
                    * secrets.stream().mapToInt(String::length).max().orElse(0);
            int whole = isWhole ? text.length() : Math.max(0, text.length() - longest);
            int kept = Math.min(whole, AttemptRunner.LONGEST_RESULT);
            return isWhole && kept == text.length() ? text : text.substring(0, kept) + "[... the rest is left out]";
        }
    }

    private HttpRequest request(Work.Request work) throws WorkFailed {
        try {
            Map<String, String> facts = facts();
            URI url = Work.Request.target(fill(work.url(), facts, /* url= */ true));
            checkSegments(work.url(), url);
            HttpRequest.Builder request = HttpRequest.newBuilder(url);
            if (url.getScheme().equals("http")) {
                request.version(HttpClient.Version.HTTP_1_1);
            }
            if (work.method().equals("GET") && work.body().isEmpty()) {
                request.GET();
            } else {
                request.method(
                        work.method(),
                        work.body()
                                .map(text -> HttpRequest.BodyPublishers.ofString(fill(text, facts, /* url= */ false)))
                                .orElseGet(HttpRequest.BodyPublishers::noBody));
            }
            traces.forEach(request::setHeader);
            request.setHeader("Brume-Run", facts.get("run"));
            request.setHeader("Brume-Job", facts.get("job"));
            request.setHeader("Brume-Planned", facts.get("planned"));
            request.setHeader("Brume-Attempt", facts.get("attempt"));
            request.setHeader("Brume-Fence", facts.get("fence"));
            work.headers().forEach((name, value) -> {
                String filled = fill(value, facts, /* url= */ false);
                Work.Request.checkHeader(name, filled);
                request.setHeader(name, filled);
            });
            return request.build();
        } catch (IllegalArgumentException e) {
            throw new WorkFailed(
                    work + " could not be made: " + masked(String.valueOf(e.getMessage())), Failure.UNKNOWN);
        }
    }

    private Map<String, String> facts() {
        RunRow row = run.row();
        Map<String, String> facts = new LinkedHashMap<>();
        facts.put("run", Long.toString(run.id()));
        facts.put("job", run.job().name().toString());
        facts.put("planned", row.owed().planned().toString());
        facts.put("plannedLocal", row.owed().nominal().toString());
        facts.put("attempt", Integer.toString(row.attempt()));
        facts.put("fence", Long.toString(row.lease().orElseThrow().fence()));
        facts.put("payload", row.payload().orElse(""));
        facts.putAll(parent);
        return facts;
    }

    private String fill(String text, Map<String, String> facts, boolean url) {
        return Placeholders.fill(text, place -> {
            String name = Placeholders.plain(place);
            String value = Placeholders.isSecret(name) ? secret(name) : Objects.requireNonNull(facts.get(name), name);
            String written = Placeholders.isJson(place) ? Placeholders.json(value) : value;
            return url && !Placeholders.isSecret(name)
                    ? URLEncoder.encode(written, StandardCharsets.UTF_8).replace("+", "%20")
                    : written;
        });
    }

    /** A filled place must not lead up the path: a server, or a proxy before it, would leave the segments before it out. */
    private static void checkSegments(String template, URI url) {
        String path = url.getPath() == null ? "" : url.getPath();
        if (!template.contains("${")) {
            return;
        }
        for (String segment : path.split("[/\\\\]", -1)) {
            String plain = segment.split(";", 2)[0];
            if (plain.equals(".") || plain.equals("..")) {
                throw new IllegalArgumentException("its path has the segment '" + plain
                        + "' once it is filled, which would lead elsewhere (let no payload be . or ..)");
            }
        }
    }

    private String secret(String place) {
        String name = place.substring(place.indexOf(':') + 1);
        String value = place.startsWith("env:") ? variable(name) : content(name);
        secrets.add(value);
        return value;
    }

    private static String variable(String name) {
        String value = System.getenv(name);
        if (value == null) {
            throw new IllegalArgumentException("the environment variable " + name + " is not set on this instance");
        }
        return value;
    }

    private static String content(String name) {
        try {
            Path file = Path.of(name);
            if (Files.size(file) > LONGEST_FILE) {
                throw new IllegalArgumentException("the file " + name + " is longer than " + LONGEST_FILE + " bytes");
            }
            return Files.readString(file).strip();
        } catch (IOException | InvalidPathException e) {
            throw new IllegalArgumentException("the file " + name + " cannot be read on this instance: " + e, e);
        }
    }

    private String masked(String text) {
        return Mask.ofValues(secrets).apply(text);
    }

    /** The charset that the answer names; UTF-8 if it names none, or one that is not known here. */
    private Charset charset(HttpResponse<?> answer) {
        Matcher named =
                CHARSET.matcher(answer.headers().firstValue("Content-Type").orElse(""));
        if (!named.find()) {
            return StandardCharsets.UTF_8;
        }
        try {
            return Charset.forName(named.group(1));
        } catch (IllegalArgumentException e) {
            output.println("charset '" + named.group(1) + "' of the answer is not known; read as UTF-8");
            return StandardCharsets.UTF_8;
        }
    }

    /** Reads {@code Retry-After}: seconds, or a date, which counts from the answer's own (RFC 9110, 10.2.3). */
    private Optional<Duration> wait(HttpResponse<?> answer) {
        Optional<String> asked = answer.headers().firstValue("Retry-After").map(String::strip);
        if (asked.isEmpty()) {
            return Optional.empty();
        }
        if (asked.get().matches("[0-9]+")) {
            BigInteger seconds = new BigInteger(asked.get()).min(BigInteger.valueOf(Durations.LONGEST.toSeconds()));
            return Optional.of(Duration.ofSeconds(seconds.longValueExact()));
        }
        Optional<Instant> until = HttpDates.parse(asked.get(), time.wall());
        if (until.isEmpty()) {
            output.println("Retry-After '" + asked.get() + "' is neither seconds nor a date; ignored");
            return Optional.empty();
        }
        Instant sent = answer.headers()
                .firstValue("Date")
                .flatMap(date -> HttpDates.parse(date.strip(), time.wall()))
                .orElseGet(time::wall);
        return Optional.of(Duration.between(sent, until.get())).filter(wait -> !wait.isNegative());
    }
}
