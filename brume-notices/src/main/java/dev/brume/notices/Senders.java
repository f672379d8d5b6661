package dev.brume.notices;

import dev.brume.notice.Sender;
import java.util.List;

/**
 * The senders that there are.
 *
 * @since 0.1.0
 */
public final class Senders {
    private Senders() {}

    /** {@return those that reach others over the network: webhooks and mail} */
    public static List<Sender> ofNetwork() {
        return List.of(webhooks(), mail());
    }

    /** {@return the one that posts webhooks} */
    public static Sender webhooks() {
        return new WebhookSender();
    }

    /** {@return the one that sends mail} */
    public static Sender mail() {
        return new MailSender();
    }

    /** {@return the one that runs programs, as the user that this process runs as: whoever may define channels decides which} */
    public static Sender ofPrograms() {
        return new ProgramSender();
    }
}
