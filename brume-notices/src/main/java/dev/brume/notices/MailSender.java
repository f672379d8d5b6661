package dev.brume.notices;

import com.samskivert.mustache.Mustache;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.RefusedException;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import jakarta.mail.Address;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.SendFailedException;
import jakarta.mail.Session;
import jakarta.mail.Transport;
import jakarta.mail.internet.InternetAddress;
import jakarta.mail.internet.MimeBodyPart;
import jakarta.mail.internet.MimeMessage;
import jakarta.mail.internet.MimeMultipart;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Arrays;
import java.util.Date;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Properties;
import java.util.UUID;
import java.util.concurrent.Future;
import java.util.concurrent.ScheduledThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** Sends notices by mail, as text and HTML; mail of one cause is one thread. Safe for use by many threads. */
final class MailSender implements Sender {
    private static final String MILLIS = "10000";
    private static final Pattern CODE = Pattern.compile("^(\\d{3})\\b");

    /** A full mailbox is emptied some day. */
    private static final int FULL = 552;

    private final Duration limit;
    private final ScheduledThreadPoolExecutor clock = new ScheduledThreadPoolExecutor(1, task -> {
        Thread thread = new Thread(task, "brume-mail-limit");
        thread.setDaemon(true);
        return thread;
    });

    /** Sends within the longest time that a delivery may take. */
    MailSender() {
        this(Way.LONGEST);
    }

    /**
     * Sends within a limit.
     *
     * @param limit for a mail to all of its addresses
     */
    MailSender(Duration limit) {
        this.limit = limit;
        clock.setRemoveOnCancelPolicy(true);
    }

    @Override
    public void close() {
        clock.shutdownNow();
    }

    @Override
    public boolean sends(Way way) {
        return way instanceof Way.Mail;
    }

    @Override
    public String send(Channel channel, List<Notice> notices) throws Exception {
        String remarks = "";
        for (Notice notice : notices) {
            remarks = send(channel, notice);
        }
        return remarks;
    }

    private String send(Channel channel, Notice notice) throws Exception {
        Way.Mail mail = (Way.Mail) channel.way();
        NoticeText text = NoticeText.of(channel, notice);
        BoundedSockets sockets = new BoundedSockets();
        Session session = session(mail, sockets);
        MimeMessage message = message(session, mail, notice, text);
        Address[] to = addresses(mail);
        Future<?> end = clock.schedule(
                () -> {
                    sockets.end();
                    return true;
                },
                limit.toMillis(),
                TimeUnit.MILLISECONDS);
        try (Transport transport = session.getTransport(mail.security() == Way.Mail.Security.TLS ? "smtps" : "smtp")) {
            if (mail.user().isPresent()) {
                transport.connect(
                        Outside.fill(mail.user().get()),
                        Outside.fill(mail.password().orElseThrow()));
            } else {
                transport.connect();
            }
            transport.sendMessage(message, to);
            return text.remark();
        } catch (MessagingException e) {
            if (sockets.isOver()) {
                throw new IOException("did not take the mail within " + limit.toMillis() + " ms", e);
            }
            if (e instanceof SendFailedException failed) {
                return partly(failed, text.remark());
            }
            throw judged(e);
        } finally {
            end.cancel(false);
        }
    }

    private static Session session(Way.Mail mail, BoundedSockets sockets) {
        String server = Outside.fill(mail.server());
        int colon = server.lastIndexOf(':');
        String host = colon < 0 ? server : server.substring(0, colon);
        boolean tls = mail.security() == Way.Mail.Security.TLS;
        String usual = switch (mail.security()) {
            case STARTTLS -> "587";
            case TLS -> "465";
            case NONE -> "25";
        };
        String prefix = tls ? "mail.smtps." : "mail.smtp.";
        Properties properties = new Properties();
        properties.setProperty(prefix + "host", host);
        properties.setProperty(prefix + "port", colon < 0 ? usual : server.substring(colon + 1));
        properties.setProperty(prefix + "connectiontimeout", MILLIS);
        properties.setProperty(prefix + "timeout", MILLIS);
        properties.setProperty(prefix + "writetimeout", MILLIS);
        properties.setProperty(prefix + "sendpartial", "true");
        properties.put(prefix + "socketFactory", sockets);
        properties.setProperty(prefix + "socketFactory.fallback", "false");
        properties.setProperty(prefix + "ssl.checkserveridentity", "true");
        properties.setProperty(prefix + "auth", Boolean.toString(mail.user().isPresent()));
        if (mail.security() == Way.Mail.Security.STARTTLS) {
            properties.setProperty(prefix + "starttls.enable", "true");
            properties.setProperty(prefix + "starttls.required", "true");
        }
        return Session.getInstance(properties);
    }

    private static Address[] addresses(Way.Mail mail) throws MessagingException {
        Address[] all = new Address[mail.to().size()];
        for (int i = 0; i < all.length; i++) {
            all[i] = new InternetAddress(Outside.fill(mail.to().get(i)), /* strict= */ false);
        }
        return all;
    }

    private static MimeMessage message(Session session, Way.Mail mail, Notice notice, NoticeText text)
            throws MessagingException, IOException {
        String from = Outside.fill(mail.from());
        String domain = from.substring(from.indexOf('@') + 1);
        String own = "<" + notice.id() + "@" + domain + ">";
        // All mail of a cause refers to one that was never sent: so programs of mail put it together, whatever arrives
        // first.
        String thread =
                "<" + UUID.nameUUIDFromBytes(notice.cause().getBytes(StandardCharsets.UTF_8)) + "@" + domain + ">";
        MimeMessage message = new MimeMessage(session) {
            @Override
            protected void updateMessageID() throws MessagingException {
                setHeader("Message-ID", own);
            }
        };
        message.setFrom(new InternetAddress(from, /* strict= */ false));
        message.setRecipients(Message.RecipientType.TO, addresses(mail));
        message.setSubject(text.subject(), StandardCharsets.UTF_8.name());
        message.setSentDate(Date.from(notice.at()));
        message.setHeader("References", thread);
        message.setHeader("In-Reply-To", thread);
        message.setHeader("Auto-Submitted", "auto-generated");
        message.setHeader("Brume-Id", notice.id());
        MimeBodyPart plain = new MimeBodyPart();
        plain.setText(text.subject() + "\n\n" + text.text() + "\n", StandardCharsets.UTF_8.name());
        MimeBodyPart html = new MimeBodyPart();
        html.setText(html(notice, text), StandardCharsets.UTF_8.name(), "html");
        message.setContent(new MimeMultipart("alternative", plain, html));
        message.saveChanges();
        return message;
    }

    private static String html(Notice notice, NoticeText text) throws IOException {
        boolean well = notice.kind() == NoticeKind.RECOVERED
                || notice.kind() == NoticeKind.ENDED_WELL
                || notice.kind() == NoticeKind.SAMPLE;
        Map<String, Object> values = new HashMap<>();
        values.put("subject", text.subject());
        values.put("facts", NoticeText.told(notice));
        values.put("colour", well ? "#2f7d5b" : "#b3452c");
        int hint = text.text().indexOf("\nTo ");
        values.put("hint", hint < 0 ? "" : text.text().substring(hint + 1));
        try (InputStream stream = MailSender.class.getResourceAsStream("mail.mustache")) {
            String template =
                    new String(Objects.requireNonNull(stream, "mail.mustache").readAllBytes(), StandardCharsets.UTF_8);
            return Mustache.compiler().defaultValue("").compile(template).execute(values);
        }
    }

    /** It may have arrived at some addresses although others were refused. */
    private static String partly(SendFailedException e, String remark) throws IOException {
        if (e.getValidSentAddresses() != null && e.getValidSentAddresses().length > 0) {
            String left = Arrays.stream(e.getInvalidAddresses() == null ? new Address[0] : e.getInvalidAddresses())
                    .map(Address::toString)
                    .collect(Collectors.joining(", "));
            String others = "delivered, but not to " + left + ": " + said(e);
            return remark.isEmpty() ? others : others + "; " + remark;
        }
        throw judged(e);
    }

    private static IOException judged(MessagingException e) {
        String said = said(e);
        Matcher code = CODE.matcher(said);
        if (code.find() && code.group(1).charAt(0) == '5' && Integer.parseInt(code.group(1)) != FULL) {
            throw new RefusedException(said);
        }
        return new IOException(said, e);
    }

    /** What the server said is somewhere in a chain. */
    private static String said(MessagingException e) {
        Exception last = e;
        MessagingException at = e;
        while (at != null && at.getNextException() != null) {
            last = at.getNextException();
            at = last instanceof MessagingException next ? next : null;
        }
        String message = last.getMessage();
        return message == null
                ? last.getClass().getSimpleName()
                : message.strip().lines().findFirst().orElse("");
    }
}
