package dev.brume.notices;

import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.RefusedException;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.stream.Collectors;
import javax.net.ssl.SSLException;

/** Posts notices. A redirect is not followed: what is signed for one receiver is not for another. Safe for use by many threads. */
final class WebhookSender implements Sender {
    private static final Duration CONNECTING = Duration.ofSeconds(5);
    private static final Set<Integer> LATER = Set.of(408, 425, 429);

    private final HttpClient client = HttpClient.newBuilder()
            .version(HttpClient.Version.HTTP_1_1)
            .followRedirects(HttpClient.Redirect.NEVER)
            .connectTimeout(CONNECTING)
            .build();

    @Override
    public boolean sends(Way way) {
        return way instanceof Way.Webhook;
    }

    @Override
    public int together(Way way) {
        return ((Way.Webhook) way).batch();
    }

    @Override
    public String send(Channel channel, List<Notice> notices) throws Exception {
        Way.Webhook hook = (Way.Webhook) channel.way();
        List<NoticeText> texts =
                notices.stream().map(notice -> NoticeText.of(channel, notice)).toList();
        boolean batch = hook.batch() > 1;
        List<Map<String, Object>> events = java.util.stream.IntStream.range(0, notices.size())
                .mapToObj(i -> CloudEvent.of(channel, notices.get(i), texts.get(i)))
                .toList();
        String body = CloudEvent.body(events, batch);
        String id = notices.size() == 1
                ? notices.get(0).id()
                : Integer.toHexString(notices.stream().map(Notice::id).toList().hashCode()) + "-"
                        + notices.get(0).id();
        HttpRequest request = request(hook, id, body, batch ? CloudEvent.BATCH : CloudEvent.STRUCTURED);
        judge(answer(request, hook.timeLimit()));
        return texts.stream()
                .map(NoticeText::remark)
                .filter(remark -> !remark.isEmpty())
                .distinct()
                .collect(Collectors.joining("; "));
    }

    private static HttpRequest request(Way.Webhook hook, String id, String body, String type) {
        URI address = URI.create(Outside.fill(hook.url()));
        if (address.getHost() == null) {
            throw new IllegalStateException("the url is no address once it is filled (expected https://host/path)");
        }
        String time = Instant.now().truncatedTo(ChronoUnit.SECONDS).toString();
        HttpRequest.Builder request = HttpRequest.newBuilder(address)
                .header("Content-Type", type + "; charset=UTF-8")
                .header("User-Agent", "Brume")
                .header(Signature.ID, id)
                .header(Signature.TIME, time)
                .POST(HttpRequest.BodyPublishers.ofString(body));
        hook.headers().forEach((name, value) -> request.setHeader(name, Outside.fill(value)));
        hook.secret()
                .ifPresent(
                        secret -> request.header(Signature.HEADER, Signature.of(Outside.fill(secret), id, time, body)));
        return request.build();
    }

    /** Within a limit for all of it, however slowly and however much is answered. */
    private HttpResponse<String> answer(HttpRequest request, Duration limit) throws Exception {
        CompletableFuture<HttpResponse<String>> answer = client.sendAsync(request, info -> new FirstOfBody());
        try {
            return answer.get(limit.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException e) {
            answer.cancel(true);
            throw new IOException("did not answer within " + limit.toMillis() + " ms", e);
        } catch (ExecutionException e) {
            if (e.getCause() instanceof SSLException untrusted) {
                throw new IOException("no trusted connection: " + untrusted.getMessage(), untrusted);
            }
            throw new IOException(
                    e.getCause().getMessage() == null
                            ? "could not be reached (" + e.getCause().getClass().getSimpleName() + ")"
                            : e.getCause().getMessage(),
                    e.getCause());
        }
    }

    private static void judge(HttpResponse<String> answer) throws IOException {
        int status = answer.statusCode();
        if (status >= 200 && status < 300) {
            return;
        }
        String said = answer.body().isBlank()
                ? ""
                : ": " + answer.body().lines().findFirst().orElse("");
        if (status >= 500 || LATER.contains(status)) {
            throw new IOException("answered " + status + said);
        }
        if (status >= 300 && status < 400) {
            throw new RefusedException("answered " + status + ", and redirects are not followed (to "
                    + answer.headers().firstValue("Location").orElse("nowhere") + ")");
        }
        throw new RefusedException("answered " + status + said);
    }
}
