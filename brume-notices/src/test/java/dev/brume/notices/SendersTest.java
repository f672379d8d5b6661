package dev.brume.notices;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.jr.ob.JSON;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import com.sun.net.httpserver.HttpsConfigurator;
import com.sun.net.httpserver.HttpsServer;
import dev.brume.JobName;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.RefusedException;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyStore;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What is sent, and what becomes of it when the other side behaves badly; against real servers and programs. */
class SendersTest {
    private static final Notice FAILED =
            notice("4f9c1b7a02d84c0e", NoticeKind.FAILED, "harbour/tide-print failed: no paper");

    private final List<HttpServer> servers = new ArrayList<>();
    private final List<MailSink> sinks = new ArrayList<>();
    private final List<MailSink.Mail> taken = Collections.synchronizedList(new ArrayList<>());
    private final CountDownLatch over = new CountDownLatch(1);

    @TempDir
    Path folder;

    @AfterEach
    void close() {
        over.countDown();
        servers.forEach(server -> server.stop(0));
        sinks.forEach(MailSink::close);
    }

    private static Notice notice(String id, NoticeKind kind, String title) {
        return new Notice(
                id,
                "failing harbour/tide-print",
                "harbour/duty",
                kind,
                Optional.of(JobName.parse("harbour/tide-print")),
                Instant.parse("2026-12-01T05:12:00Z"),
                title,
                Map.of("run", "4711", "error", "no <paper> & \"ink\""));
    }

    private static Sender sender(Way way) {
        return java.util.stream.Stream.concat(
                        Senders.ofNetwork().stream(), java.util.stream.Stream.of(Senders.ofPrograms()))
                .filter(each -> each.sends(way))
                .findFirst()
                .orElseThrow();
    }

    private static String send(Way way, Notice... notices) throws Exception {
        return send(Channel.named("harbour/duty", way), notices);
    }

    private static String send(Channel channel, Notice... notices) throws Exception {
        return sender(channel.way()).send(channel, List.of(notices));
    }

    private interface Answering {
        void answer(HttpExchange exchange) throws Exception;
    }

    private String serve(Answering answering) throws IOException {
        HttpServer server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        return begin(server, answering, "http");
    }

    private String begin(HttpServer server, Answering answering, String scheme) {
        server.createContext("/", exchange -> {
            try (exchange) {
                answering.answer(exchange);
            } catch (Exception e) {
                throw new IOException(e);
            }
        });
        server.setExecutor(Executors.newCachedThreadPool(task -> {
            Thread thread = new Thread(task, "answers");
            thread.setDaemon(true);
            return thread;
        }));
        server.start();
        servers.add(server);
        return scheme + "://localhost:" + server.getAddress().getPort() + "/hook";
    }

    private String answering(int status) throws IOException {
        return serve(exchange -> {
            exchange.getRequestBody().readAllBytes();
            exchange.getResponseHeaders().set("Location", "http://elsewhere.example/");
            byte[] text = "said so\nand more".getBytes(StandardCharsets.UTF_8);
            exchange.sendResponseHeaders(status, status == 304 ? -1 : text.length);
            if (status != 304) {
                exchange.getResponseBody().write(text);
            }
        });
    }

    // Webhooks.

    @Test
    void aWebhookIsACloudEventWithASignatureOverIdTimeAndBody() throws Exception {
        List<String> seen = new ArrayList<>();
        String url = serve(exchange -> {
            String body = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
            String id = exchange.getRequestHeaders().getFirst(Signature.ID);
            String time = exchange.getRequestHeaders().getFirst(Signature.TIME);
            seen.add(body);
            seen.add(exchange.getRequestHeaders().getFirst("Content-Type"));
            seen.add(exchange.getRequestHeaders().getFirst("X-Team"));
            seen.add(exchange.getRequestHeaders().getFirst(Signature.HEADER));
            seen.add(Signature.of("s3cret", id, time, body));
            exchange.sendResponseHeaders(202, -1);
        });
        Path secret = Files.writeString(folder.resolve("secret"), "s3cret\n");
        Way way = new Way.Webhook(
                url, Map.of("X-Team", "quay"), Optional.of("${file:" + secret + "}"), 1, Duration.ofSeconds(5));

        assertThat(send(way, FAILED)).isEmpty();

        Map<String, Object> event = JSON.std.mapFrom(seen.get(0));
        assertThat(event)
                .containsEntry("specversion", "1.0")
                .containsEntry("id", FAILED.id())
                .containsEntry("type", "dev.brume.notice.failed")
                .containsEntry("source", "urn:brume:harbour")
                .containsEntry("subject", "failing harbour/tide-print")
                .containsEntry("time", "2026-12-01T05:12:00Z");
        assertThat((Map<?, ?>) event.get("data")).extracting("title").isEqualTo("harbour/tide-print failed: no paper");
        assertThat(seen.get(1)).startsWith("application/cloudevents+json");
        assertThat(seen.get(2)).isEqualTo("quay");
        assertThat(seen.get(3)).isEqualTo(seen.get(4)).hasSize(64);
    }

    @Test
    void severalNoticesGoAsABatchWhereTheChannelTakesOne() throws Exception {
        List<String> seen = new ArrayList<>();
        String url = serve(exchange -> {
            seen.add(exchange.getRequestHeaders().getFirst("Content-Type"));
            seen.add(new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
            exchange.sendResponseHeaders(200, -1);
        });
        Way way = new Way.Webhook(url, Map.of(), Optional.empty(), 20, Duration.ofSeconds(5));

        send(way, FAILED, notice("ffff", NoticeKind.RECOVERED, "well again"));

        assertThat(sender(way).together(way)).isEqualTo(20);
        assertThat(seen.get(0)).startsWith("application/cloudevents-batch+json");
        assertThat(JSON.std.listFrom(seen.get(1))).hasSize(2);
    }

    @Test
    void whatIsAnsweredDecidesWhetherItIsTriedAgain() throws Exception {
        for (int status : List.of(301, 302, 304, 400, 404, 410)) {
            String url = answering(status);
            assertThatThrownBy(() -> send(Way.Webhook.to(url), FAILED))
                    .as("%d", status)
                    .isInstanceOf(RefusedException.class)
                    .hasMessageContaining("answered " + status);
        }
        for (int status : List.of(408, 429, 500, 503)) {
            String url = answering(status);
            assertThatThrownBy(() -> send(Way.Webhook.to(url), FAILED))
                    .as("%d", status)
                    .isExactlyInstanceOf(IOException.class)
                    .hasMessage("answered " + status + ": said so");
        }
    }

    @Test
    void whoAnswersSlowlyNeverOrWithoutEndIsLeftInTime() throws Exception {
        String never = serve(exchange -> over.await(1, TimeUnit.MINUTES));
        String drop = serve(exchange -> {
            exchange.sendResponseHeaders(200, 0);
            exchange.getResponseBody().write('x');
            exchange.getResponseBody().flush();
            over.await(1, TimeUnit.MINUTES);
        });
        String flood = serve(exchange -> {
            exchange.sendResponseHeaders(200, 0);
            byte[] much = new byte[1 << 20];
            try (OutputStream out = exchange.getResponseBody()) {
                for (int i = 0; i < 1024; i++) {
                    out.write(much);
                }
            } catch (IOException leftAlone) {
                over.countDown();
            }
        });
        Duration limit = Duration.ofSeconds(1);

        assertThatThrownBy(() -> send(new Way.Webhook(never, Map.of(), Optional.empty(), 1, limit), FAILED))
                .isInstanceOf(IOException.class)
                .hasMessageContaining("1000 ms");
        assertThatThrownBy(() -> send(new Way.Webhook(drop, Map.of(), Optional.empty(), 1, limit), FAILED))
                .isInstanceOf(IOException.class);
        assertThat(send(new Way.Webhook(flood, Map.of(), Optional.empty(), 1, Duration.ofSeconds(30)), FAILED))
                .isEmpty();
        assertThat(over.await(30, TimeUnit.SECONDS)).isTrue();
    }

    @Test
    void whoIsNotThereOrNotTrustedIsTriedAgain() throws Exception {
        assertThatThrownBy(() -> send(Way.Webhook.to("http://127.0.0.1:1/"), FAILED))
                .isInstanceOf(IOException.class);
        HttpsServer server = HttpsServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.setHttpsConfigurator(new HttpsConfigurator(selfSigned()));
        String url = begin(server, exchange -> exchange.sendResponseHeaders(200, -1), "https");

        assertThatThrownBy(() -> send(Way.Webhook.to(url), FAILED))
                .isInstanceOf(IOException.class)
                .hasMessageContaining("no trusted connection");
        assertThatThrownBy(() -> send(Way.Webhook.to("${env:NOBODY_HAS_SET_THIS}"), FAILED))
                .hasMessage("the variable NOBODY_HAS_SET_THIS is not set where notices are sent from");
    }

    private SSLContext selfSigned() throws Exception {
        Path store = folder.resolve("keys.p12");
        if (!Files.exists(store)) {
            Process keytool = new ProcessBuilder(
                            Path.of(System.getProperty("java.home"), "bin", "keytool")
                                    .toString(),
                            "-genkeypair",
                            "-alias",
                            "harbour",
                            "-keyalg",
                            "EC",
                            "-dname",
                            "CN=localhost",
                            "-storetype",
                            "PKCS12",
                            "-keystore",
                            store.toString(),
                            "-storepass",
                            "quayside")
                    .redirectErrorStream(true)
                    .start();
            keytool.getInputStream().readAllBytes();
            assertThat(keytool.waitFor()).isZero();
        }
        KeyStore keys = KeyStore.getInstance("PKCS12");
        try (InputStream stream = Files.newInputStream(store)) {
            keys.load(stream, "quayside".toCharArray());
        }
        KeyManagerFactory managers = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
        managers.init(keys, "quayside".toCharArray());
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(managers.getKeyManagers(), null, null);
        return context;
    }

    @Test
    void aTemplateOfTheChannelIsUsedAndOneThatFailsIsToldAndLeftOut() throws Exception {
        List<String> titles = new ArrayList<>();
        String url = serve(exchange -> {
            Map<String, Object> event =
                    JSON.std.mapFrom(exchange.getRequestBody().readAllBytes());
            titles.add((String) ((Map<?, ?>) event.get("data")).get("title"));
            exchange.sendResponseHeaders(200, -1);
        });
        Channel channel = Channel.named("harbour/duty", Way.Webhook.to(url));

        assertThat(send(channel.template(NoticeKind.FAILED, "{{job}} is out: {{error}}\n\nRun {{run}}"), FAILED))
                .isEmpty();
        assertThat(send(channel.template(NoticeKind.FAILED, "{{#job}} is out"), FAILED))
                .startsWith("the channel's template of failed fails: ");
        assertThat(titles)
                .containsExactly(
                        "harbour/tide-print is out: no <paper> & \"ink\"", "harbour/tide-print failed: no paper");
    }

    // Mail.

    private MailSink sink(String refused, String answer, Optional<SSLContext> tls) {
        MailSink sink = MailSink.open(
                0, taken::add, address -> address.startsWith(refused) ? Optional.of(answer) : Optional.empty(), tls);
        sinks.add(sink);
        return sink;
    }

    private static Way.Mail mail(MailSink sink, Way.Mail.Security security, String... to) {
        return new Way.Mail(
                "localhost:" + sink.port(),
                security,
                Optional.of("brume"),
                Optional.of("p4ss"),
                "brume@harbour.example",
                List.of(to));
    }

    @Test
    void mailIsGivenUpWhenItsTimeIsOverHoweverManyAddressesAreAnswered() throws Exception {
        CompletableFuture<Void> held = new CompletableFuture<>();
        MailSink sink = MailSink.open(
                0,
                taken::add,
                address -> {
                    if (address.startsWith("second")) {
                        held.join();
                    }
                    return Optional.empty();
                },
                Optional.empty());
        sinks.add(sink);
        Way way = mail(sink, Way.Mail.Security.NONE, "first@harbour.example", "second@harbour.example");

        try (MailSender hasty = new MailSender(Duration.ofMillis(1500))) {
            assertThatThrownBy(() -> hasty.send(Channel.named("harbour/duty", way), List.of(FAILED)))
                    .isInstanceOf(IOException.class)
                    .hasMessage("did not take the mail within 1500 ms");
        } finally {
            held.complete(null);
        }

        assertThat(taken).isEmpty();
    }

    @Test
    void mailHasTextAndHtmlAndMailOfACauseIsOneThread() throws Exception {
        MailSink sink = sink("nobody", "550 no", Optional.empty());
        Way way = mail(sink, Way.Mail.Security.NONE, "office@harbour.example");

        send(way, FAILED);
        send(way, notice("ffff", NoticeKind.RECOVERED, "harbour/tide-print is well again"));

        assertThat(taken).hasSize(2);
        MailSink.Mail first = taken.get(0);
        assertThat(first.from()).isEqualTo("brume@harbour.example");
        assertThat(first.to()).containsExactly("office@harbour.example");
        assertThat(first.header("Subject")).contains("harbour/tide-print failed: no paper");
        assertThat(first.header("Message-ID")).contains("<4f9c1b7a02d84c0e@harbour.example>");
        assertThat(first.header("References"))
                .isEqualTo(taken.get(1).header("References"))
                .isPresent();
        assertThat(first.header("Auto-Submitted")).contains("auto-generated");
        assertThat(first.content())
                .contains("multipart/alternative", "text/plain", "text/html")
                .contains("Error: no <paper> & \"ink\"")
                .contains("no &lt;paper&gt; &amp; &quot;ink&quot;")
                .contains("brume show 4711");
    }

    @Test
    void oneBadAddressOfSeveralIsToldAndTheOthersHaveTheMail() throws Exception {
        MailSink sink = sink("gone", "550 no such mailbox", Optional.empty());

        String remark =
                send(mail(sink, Way.Mail.Security.NONE, "office@harbour.example", "gone@harbour.example"), FAILED);

        assertThat(remark).startsWith("delivered, but not to gone@harbour.example: 550 no such mailbox");
        assertThat(taken).singleElement().extracting(MailSink.Mail::to).isEqualTo(List.of("office@harbour.example"));
        assertThatThrownBy(() -> send(mail(sink, Way.Mail.Security.NONE, "gone@harbour.example"), FAILED))
                .isInstanceOf(RefusedException.class)
                .hasMessageContaining("550 no such mailbox");
    }

    @Test
    void aFullMailboxIsTriedAgain() {
        MailSink sink = sink("office", "552 mailbox full", Optional.empty());

        assertThatThrownBy(() -> send(mail(sink, Way.Mail.Security.NONE, "office@harbour.example"), FAILED))
                .isInstanceOf(IOException.class)
                .hasMessageContaining("552 mailbox full");
    }

    @Test
    void mailGoesOverNoLineThatIsNotEncryptedOrNotTrusted() throws Exception {
        MailSink plain = sink("nobody", "550 no", Optional.empty());
        MailSink untrusted = sink("nobody", "550 no", Optional.of(selfSigned()));

        assertThatThrownBy(() -> send(mail(plain, Way.Mail.Security.STARTTLS, "office@harbour.example"), FAILED))
                .isInstanceOf(IOException.class);
        assertThatThrownBy(() -> send(mail(untrusted, Way.Mail.Security.STARTTLS, "office@harbour.example"), FAILED))
                .isInstanceOf(IOException.class);
        assertThat(taken).isEmpty();
    }

    // Programs.

    @Test
    void aProgramIsGivenTheNoticeAndSaysByItsExitCodeWhetherItHasIt() throws Exception {
        Path out = folder.resolve("out.json");
        Duration limit = Duration.ofSeconds(10);

        send(new Way.Program(List.of("sh", "-c", "cat > " + out), limit), FAILED);

        assertThat(JSON.std.mapFrom(Files.readString(out))).containsEntry("id", FAILED.id());
        assertThatThrownBy(() -> send(
                        new Way.Program(List.of("sh", "-c", "echo one; echo no modem >&2; exit 3"), limit), FAILED))
                .hasMessage("the program exited with 3: no modem");
        assertThatThrownBy(() -> send(new Way.Program(List.of("sh", "-c", "sleep 60"), Duration.ofSeconds(1)), FAILED))
                .hasMessageContaining("did not end within 1000 ms");
        assertThatThrownBy(() -> send(new Way.Program(List.of("no-such-program"), limit), FAILED))
                .isInstanceOf(IOException.class);
    }

    @Test
    void aProgramThatDoesNotReadIsStoppedInTimeHoweverMuchItIsGiven() {
        Channel channel = Channel.named(
                        "harbour/duty",
                        new Way.Program(List.of("sh", "-c", "exec sleep 20 </dev/null"), Duration.ofSeconds(1)))
                .template(
                        NoticeKind.FAILED,
                        "{{title}}\n" + "{{#facts}}{{#facts}}" + "x".repeat(19_000) + "{{/facts}}{{/facts}}");

        assertThatThrownBy(() -> send(channel, FAILED)).hasMessageContaining("did not end within 1000 ms");
    }

    @Test
    void aTemplateThatGoesOnAndOnIsToldAndLeftOut() throws Exception {
        String nested = "{{#facts}}".repeat(60) + "%s" + "{{/facts}}".repeat(60);
        for (String endless :
                List.of(nested.formatted(""), "{{#facts}}".repeat(5) + "x".repeat(19_000) + "{{/facts}}".repeat(5))) {
            Channel channel = Channel.named(
                            "harbour/duty",
                            new Way.Program(List.of("sh", "-c", "cat > /dev/null"), Duration.ofSeconds(20)))
                    .template(NoticeKind.FAILED, endless);

            assertThat(send(channel, FAILED)).contains("the channel's template of failed fails", "more than 100");
        }
    }
}
