package dev.brume.http.internal.console;

import dev.brume.http.internal.web.Reply;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** A page of tables, with what narrows them down. Confined to one thread. */
public final class ListPage {
    private final Frame frame;
    private final List<String> texts = new ArrayList<>();
    private final List<Field> fields = new ArrayList<>();
    private final List<Table> tables = new ArrayList<>();
    private final Map<String, String> links = new LinkedHashMap<>();
    private final List<Order> orders = new ArrayList<>();

    /** A field of the form that narrows down: its name, what it is called, its value, and what may be chosen, if that is a list. */
    public record Field(String name, String label, String value, List<String> choice) {}

    ListPage(Frame frame) {
        this.frame = frame;
    }

    ListPage text(String text) {
        texts.add(text);
        return this;
    }

    ListPage field(String name, String label, String value, String... choice) {
        fields.add(new Field(name, label, value, List.of(choice)));
        return this;
    }

    ListPage table(Table table) {
        tables.add(table);
        return this;
    }

    ListPage link(String word, String href) {
        links.put(word, href);
        return this;
    }

    ListPage order(Order order) {
        orders.add(order);
        return this;
    }

    Reply reply() {
        return Html.page(
                "list",
                Map.of(
                        "frame", frame,
                        "texts", texts,
                        "fields", fields,
                        "tables", tables,
                        "links", links,
                        "orders", orders));
    }
}
