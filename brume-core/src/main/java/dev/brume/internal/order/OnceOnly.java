package dev.brume.internal.order;

import dev.brume.OrderKeyTakenException;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.text.Digests;
import dev.brume.internal.text.Texts;
import dev.brume.spi.RequestKey;
import dev.brume.spi.RequestRow;
import dev.brume.spi.Transaction;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.Supplier;

/**
 * Carries an order out once for its key: the key, what is done and the result commit together, and whoever gives the same order under it again
 * is told the same result.
 *
 * @param principal who gives orders, whose keys these are
 * @param key chosen by them; empty if the order is carried out as often as it is given
 */
public record OnceOnly(String principal, Optional<String> key) {
    private static final int LONGEST = 200;

    /** Checks the key. */
    public OnceOnly {
        key.ifPresent(text -> {
            if (text.isBlank()) {
                throw new IllegalArgumentException("order key: is empty (expected 1 to " + LONGEST + " characters)");
            }
            Texts.line("order key", text, LONGEST);
        });
    }

    /** {@return orders that are carried out as often as they are given} */
    public static OnceOnly not(Orderer orderer) {
        return new OnceOnly(orderer.who(), Optional.empty());
    }

    /**
     * What an order asks for, and how its result is kept.
     *
     * @param operation what is asked for, such as {@code run-now}
     * @param namespace whose keys these are
     * @param asked all that tells one order of that kind from another
     * @param write makes a text of the result
     * @param read makes the result of the text
     * @param run the run whose record keeps the key, if the order makes one
     */
    public record Form<T>(
            String operation,
            String namespace,
            List<String> asked,
            Function<T, String> write,
            Function<String, T> read,
            Function<T, Optional<Long>> run) {

        /** A form whose result is the number of a run. */
        public static Form<Long> ofRun(String operation, String namespace, Object... asked) {
            return new Form<>(operation, namespace, texts(asked), Object::toString, Long::valueOf, Optional::of);
        }

        /** A form whose result is made of a text, and is no run. */
        public static <T> Form<T> of(
                String operation,
                String namespace,
                Function<T, String> write,
                Function<String, T> read,
                Object... asked) {
            return new Form<>(operation, namespace, texts(asked), write, read, result -> Optional.empty());
        }

        static List<String> texts(Object... asked) {
            return Arrays.stream(asked).map(Object::toString).toList();
        }
    }

    /**
     * {@return the result of an order that was carried out before under this key} If it was not, it is begun with this transaction.
     *
     * @throws OrderKeyTakenException if the key stands for another order
     */
    <T> Optional<T> before(Transaction tx, Form<T> form) {
        if (key.isEmpty()) {
            return Optional.empty();
        }
        String digest = Digests.sha256(form.operation(), form.asked().toArray(String[]::new));
        Optional<RequestRow> heard = tx.requests().begin(requestKey(form), digest);
        if (heard.isPresent() && !heard.get().digest().equals(digest)) {
            throw new OrderKeyTakenException(key.get(), heard.get().begunAt());
        }
        return heard.flatMap(RequestRow::answer).map(form.read());
    }

    private RequestKey requestKey(Form<?> form) {
        return new RequestKey(principal, form.namespace(), form.operation(), key.orElseThrow());
    }

    /** Keeps the result of an order that was begun in this transaction or an earlier one. */
    <T> void done(Transaction tx, Form<T> form, T result) {
        if (key.isPresent()) {
            tx.requests()
                    .done(
                            requestKey(form),
                            form.write().apply(result),
                            form.run().apply(result));
        }
    }

    /** Carries out what takes several transactions, each of which can be done again; one that was cut off is gone on with. */
    public <T> T around(Instance instance, Form<T> form, Supplier<T> steps) {
        if (key.isEmpty()) {
            return steps.get();
        }
        Optional<T> before = instance.transact(tx -> before(tx, form));
        return before.orElseGet(() -> {
            T result = steps.get();
            instance.transact(tx -> {
                done(tx, form, result);
                return null;
            });
            return result;
        });
    }
}
