package dev.brume.spring.test.app;

import org.springframework.boot.autoconfigure.SpringBootApplication;

/** An application whose jobs are tested without the rest of it. */
@SpringBootApplication
public class HarbourApplication {
    /** What jobs need of the rest. */
    public interface Board {
        void show(String text);
    }
}
