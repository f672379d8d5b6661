package dev.brume.http.internal.console;

import dev.brume.JobName;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Problem;
import java.util.List;

/** Reads what narrows a page down. Stateless. */
final class Pick {
    private Pick() {}

    static JobName job(String text) {
        try {
            return JobName.parse(text);
        } catch (IllegalArgumentException e) {
            throw Problem.ofParameter("job", String.valueOf(e.getMessage()));
        }
    }

    /** {@return those of some parameters that were given, to begin an address's query with} */
    static String query(Call call, String... names) {
        StringBuilder query = new StringBuilder();
        for (String name : names) {
            for (String value : call.incoming().query().getOrDefault(name, List.of())) {
                if (!value.isEmpty()) {
                    query.append(name).append('=').append(Frame.encoded(value)).append('&');
                }
            }
        }
        return query.toString();
    }
}
