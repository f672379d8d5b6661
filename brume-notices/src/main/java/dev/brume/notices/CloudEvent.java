package dev.brume.notices;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** Notices as CloudEvents 1.0 in JSON, structured or as a batch. Stateless. */
final class CloudEvent {
    static final String STRUCTURED = "application/cloudevents+json";
    static final String BATCH = "application/cloudevents-batch+json";

    private CloudEvent() {}

    /** {@return a notice as an event} */
    static Map<String, Object> of(Channel channel, Notice notice, NoticeText text) {
        Map<String, Object> data = new LinkedHashMap<>();
        data.put("title", text.subject());
        data.put("text", text.text());
        data.put("kind", notice.kind().word());
        data.put("cause", notice.cause());
        data.put("channel", channel.name());
        notice.job().ifPresent(job -> data.put("job", job.toString()));
        data.put("facts", notice.facts());
        Map<String, Object> event = new LinkedHashMap<>();
        event.put("specversion", "1.0");
        event.put("id", notice.id());
        event.put(
                "source",
                "urn:brume:" + notice.job().map(job -> job.namespace()).orElse("cluster"));
        event.put("type", "dev.brume.notice." + notice.kind().word());
        event.put("subject", notice.cause());
        event.put("time", notice.at().toString());
        event.put("datacontenttype", "application/json");
        event.put("data", data);
        return event;
    }

    static String json(Object value) {
        try {
            return JSON.std.asString(value);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** {@return some events as one body: a batch, unless it is a single one that goes by itself} */
    static String body(List<Map<String, Object>> events, boolean batch) {
        return json(batch ? events : events.get(0));
    }
}
