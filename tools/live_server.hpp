// The live bench's server: one page and one line to it, on this machine alone.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <string>

struct mg_connection;
struct mg_context;

namespace hollow_probe::tool {

struct LiveService {
    std::function<std::string()> page;
    std::function<std::string(const std::string&)> answer;
};

/// Listens on 127.0.0.1 and answers only requests to that host, from that origin, for an address with the
/// token in it: GET /TOKEN/ gives the page, /TOKEN/line is a WebSocket over which questions come and answers
/// and news go. Anything else is refused; nothing that comes in ends it.
class LiveServer {
  public:
    /// `port` 0 takes a free one. Throws InputError where it cannot listen.
    LiveServer(int port, LiveService service);
    /// Ends all lines.
    ~LiveServer();
    LiveServer(const LiveServer&) = delete;
    LiveServer& operator=(const LiveServer&) = delete;
    LiveServer(LiveServer&&) = delete;
    LiveServer& operator=(LiveServer&&) = delete;

    /// With the token: "http://127.0.0.1:40123/3f…/".
    [[nodiscard]] std::string address() const;
    /// Sends news over every line; returns at once. Of news of one kind that wait, only the last goes.
    void tell(const std::string& news);

  private:
    struct Line;

    static int begin(mg_connection* connection);
    static int connect(const mg_connection* connection, void* self);
    static void ready(mg_connection* connection, void* self);
    static int take(mg_connection* connection, int bits, char* data, std::size_t size, void* self);
    static void close(const mg_connection* connection, void* self);
    [[nodiscard]] bool is_from_here(const mg_connection* connection) const;
    [[nodiscard]] int serve(mg_connection* connection) const;

    LiveService service_;
    std::string token_;
    int port_ = 0;
    std::mutex mutex_;
    std::map<const mg_connection*, std::shared_ptr<Line>> lines_;
    mg_context* context_ = nullptr;
};

}  // namespace hollow_probe::tool
