package dev.brume.tests.http;

import static org.junit.jupiter.api.Assumptions.assumeTrue;

import com.deque.html.axecore.selenium.AxeBuilder;
import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Grant;
import java.io.File;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import java.util.logging.Level;
import org.openqa.selenium.By;
import org.openqa.selenium.WebElement;
import org.openqa.selenium.chrome.ChromeDriver;
import org.openqa.selenium.chrome.ChromeDriverService;
import org.openqa.selenium.chrome.ChromeOptions;
import org.openqa.selenium.logging.LogEntry;
import org.openqa.selenium.logging.LogType;
import org.openqa.selenium.logging.LoggingPreferences;
import org.openqa.selenium.support.ui.WebDriverWait;

/** A real browser that somebody looks at an instance with. Where {@code BRUME_BROWSER=required} it has to be there. */
final class Browser implements AutoCloseable {
    private static final List<String> DRIVERS = List.of("/usr/bin/chromedriver", "/usr/lib/chromium/chromedriver");
    private static final List<String> BROWSERS = List.of("/usr/bin/chromium", "/usr/bin/chromium-browser");
    private static final Duration PATIENCE = Duration.ofSeconds(60);

    private static final String AXE = axe();

    final ChromeDriver driver;
    private final Web web;

    private Browser(Web web, ChromeDriver driver) {
        this.web = web;
        this.driver = driver;
    }

    /** Opens one of 1280 by 800, in which somebody has signed in. */
    static Browser open(Web web, Grant grant, String... more) {
        List<String> driver = there(DRIVERS);
        List<String> browser = there(BROWSERS);
        boolean isThere = !driver.isEmpty() && !browser.isEmpty();
        if (!isThere && "required".equals(System.getenv("BRUME_BROWSER"))) {
            throw new AssertionError("there is no Chromium with its driver (Debian: chromium, chromium-driver)");
        }
        assumeTrue(isThere, "needs Chromium and its driver (Debian: chromium, chromium-driver)");
        LoggingPreferences logs = new LoggingPreferences();
        logs.enable(LogType.BROWSER, Level.ALL);
        logs.enable(LogType.PERFORMANCE, Level.ALL);
        ChromeOptions options = new ChromeOptions();
        options.setBinary(browser.get(0));
        options.addArguments(
                "--headless=new",
                "--no-sandbox",
                "--disable-dev-shm-usage",
                "--disable-background-networking",
                "--disable-component-update",
                "--disable-default-apps",
                "--disable-sync",
                "--no-first-run",
                "--window-size=1280,800");
        for (String argument : more) {
            if (argument.equals("without scripts")) {
                options.setExperimentalOption(
                        "prefs", Map.of("profile.managed_default_content_settings.javascript", 2));
            } else {
                options.addArguments(argument);
            }
        }
        options.setCapability("goog:loggingPrefs", logs);
        ChromeDriverService service = new ChromeDriverService.Builder()
                .usingDriverExecutable(new File(driver.get(0)))
                .build();
        Browser opened = new Browser(web, new ChromeDriver(service, options));
        web.http.link("once-" + opened.hashCode(), "mara", grant);
        opened.go("/open/once-" + opened.hashCode());
        return opened;
    }

    private static String axe() {
        try (InputStream script = AxeBuilder.class.getResourceAsStream("/axe.min.js")) {
            return new String(script.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static List<String> there(List<String> paths) {
        return paths.stream().filter(path -> new File(path).canExecute()).toList();
    }

    Browser go(String path) {
        driver.get(web.uri(path).toString());
        return this;
    }

    WebElement find(String selector) {
        return driver.findElement(By.cssSelector(selector));
    }

    List<WebElement> all(String selector) {
        return driver.findElements(By.cssSelector(selector));
    }

    String text() {
        return find("body").getText();
    }

    /** {@return what axe-core finds on the page that keeps people from using it (WCAG 2.2 A and AA), in the page itself or the frame it is in} */
    Object violations() {
        driver.executeScript(AXE);
        return driver.executeAsyncScript("""
                const done = arguments[arguments.length - 1];
                axe.run({ runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"] }).then(
                    said => done(said.violations.map(rule => rule.id + ": " + rule.nodes.map(node => node.html).join(", "))),
                    failed => done(["axe: " + failed]));
                """);
    }

    /** {@return by how many pixels the page is wider than the window} */
    Object tooWide() {
        return driver.executeScript(
                "return document.documentElement.scrollWidth - document.documentElement.clientWidth");
    }

    /** Waits until something is so. */
    void await(String what, Supplier<Boolean> question) {
        new WebDriverWait(driver, PATIENCE, Duration.ofMillis(50))
                .ignoring(org.openqa.selenium.StaleElementReferenceException.class)
                .withMessage(what)
                .until(any -> question.get());
    }

    /** {@return what went wrong on the pages so far, breaches of the content security policy among it} */
    List<String> complaints() {
        return driver.manage().logs().get(LogType.BROWSER).getAll().stream()
                .filter(entry -> entry.getLevel().intValue() >= Level.WARNING.intValue())
                .map(LogEntry::getMessage)
                .toList();
    }

    /** {@return the addresses that pages have asked for} */
    List<String> requests() {
        List<String> addresses = new ArrayList<>();
        for (LogEntry entry : driver.manage().logs().get(LogType.PERFORMANCE)) {
            try {
                Map<String, Object> message = child(JSON.std.mapFrom(entry.getMessage()), "message");
                if ("Network.requestWillBeSent".equals(message.get("method"))) {
                    addresses.add(String.valueOf(
                            child(child(message, "params"), "request").get("url")));
                }
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }
        return addresses;
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> child(Map<String, Object> map, String name) {
        return (Map<String, Object>) map.get(name);
    }

    @Override
    public void close() {
        driver.quit();
    }
}
