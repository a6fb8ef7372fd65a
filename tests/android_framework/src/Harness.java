import java.io.BufferedReader;
import java.io.File;
import java.io.InputStreamReader;
import java.io.PrintStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.SocketTimeoutException;
import java.nio.file.Files;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.runner.Description;
import org.junit.runner.JUnitCore;
import org.junit.runner.Request;
import org.junit.runner.Result;
import org.junit.runner.manipulation.Filter;
import org.junit.runner.notification.Failure;
import org.robolectric.RobolectricTestRunner;

/**
 * Serves the judge on the loopback address, to all workers of a test run: a line "API level, tab, JSON array of cases" is answered
 * with a line of JSON. The port is written to the file that is named. It ends when nobody has been connected for a while.
 */
public final class Harness {
  private static final int IDLE_MILLISECONDS = 20_000;
  private static final AtomicInteger CONNECTED = new AtomicInteger();

  public static void main(String[] arguments) throws Exception {
    ServerSocket server = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
    server.setSoTimeout(IDLE_MILLISECONDS);
    File ready = new File(arguments[0]);
    File written = new File(arguments[0] + ".part");
    Files.writeString(written.toPath(), Integer.toString(server.getLocalPort()));
    Files.move(written.toPath(), ready.toPath());
    while (true) {
      try {
        Socket socket = server.accept();
        CONNECTED.incrementAndGet();
        new Thread(() -> serve(socket)).start();
      } catch (SocketTimeoutException idle) {
        if (CONNECTED.get() == 0) {
          System.exit(0);
        }
      }
    }
  }

  private static void serve(Socket socket) {
    try (socket) {
      BufferedReader in = new BufferedReader(new InputStreamReader(socket.getInputStream(), "UTF-8"));
      PrintStream out = new PrintStream(socket.getOutputStream(), true, "UTF-8");
      for (String line = in.readLine(); line != null; line = in.readLine()) {
        String[] parts = line.split("\t", 2);
        out.print(answered(parts[0], parts[1]).replace("\n", " ") + "\n");
        out.flush();
      }
    } catch (Exception error) {
      error.printStackTrace();
    } finally {
      CONNECTED.decrementAndGet();
    }
  }

  /** One level is asked at a time; its framework stays loaded. */
  private static synchronized String answered(String level, String questions) throws Exception {
    System.getProperties().remove(Cases.ANSWERS);
    System.setProperty(Cases.QUESTIONS, questions);
    RobolectricTestRunner runner = new RobolectricTestRunner(Cases.class);
    Result result = new JUnitCore().run(Request.runner(runner).filterWith(only(level)));
    for (Failure failure : result.getFailures()) {
      System.err.println(failure.getTrace());
    }
    return System.getProperty(Cases.ANSWERS, "null");
  }

  private static Filter only(String level) {
    return new Filter() {
      @Override
      public boolean shouldRun(Description description) {
        return description.getMethodName() == null || description.getMethodName().endsWith("[" + level + "]");
      }

      @Override
      public String describe() {
        return level;
      }
    };
  }
}
