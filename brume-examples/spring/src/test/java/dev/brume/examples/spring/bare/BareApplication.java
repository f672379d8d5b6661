package dev.brume.examples.spring.bare;

import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;

/** An application with a database, pages and Actuator, and nothing of its own. */
@SpringBootApplication
public class BareApplication {
    public static void main(String[] args) {
        SpringApplication.run(BareApplication.class, args);
    }
}
