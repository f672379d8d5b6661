package dev.brume.examples.spring;

import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;

/** The harbour office on Spring Boot: berths are booked over HTTP, jobs remind, certify, and book dues. */
@SpringBootApplication
public class HarbourOfficeApplication {
    /** Runs until the process is told to end. */
    public static void main(String[] args) {
        SpringApplication.run(HarbourOfficeApplication.class, args);
    }
}
