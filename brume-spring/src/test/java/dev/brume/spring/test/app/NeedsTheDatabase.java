package dev.brume.spring.test.app;

import javax.sql.DataSource;
import org.springframework.stereotype.Component;

/** Left out of tests of jobs alone: it needs what is not there. */
@Component
class NeedsTheDatabase {
    NeedsTheDatabase(DataSource source) {
        throw new IllegalStateException("made with " + source);
    }
}
