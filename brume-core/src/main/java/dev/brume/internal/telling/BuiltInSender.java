package dev.brume.internal.telling;

import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.Receiver;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import java.util.List;
import java.util.Map;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Sends what needs nothing beside the application itself: to its log, and to its own code. */
public final class BuiltInSender implements Sender {
    private static final Logger LOG = LoggerFactory.getLogger("dev.brume.notices");

    private final Map<String, Receiver> receivers;

    /**
     * Creates it.
     *
     * @param receivers by name; may change while it is used
     */
    public BuiltInSender(Map<String, Receiver> receivers) {
        this.receivers = receivers;
    }

    @Override
    public boolean sends(Way way) {
        return way instanceof Way.Log || way instanceof Way.Code code && receivers.containsKey(code.receiver());
    }

    @Override
    public String send(Channel channel, List<Notice> notices) throws Exception {
        for (Notice notice : notices) {
            if (channel.way() instanceof Way.Code code) {
                Receiver receiver = receivers.get(code.receiver());
                if (receiver == null) {
                    throw new IllegalStateException("nothing is registered as " + code.receiver() + " any more");
                }
                receiver.take(notice);
            } else {
                LOG.warn("{} ({}, {})", notice.title(), notice.kind().word(), notice.id());
            }
        }
        return "";
    }
}
