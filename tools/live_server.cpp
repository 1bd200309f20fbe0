#include "live_server.hpp"

#include <civetweb.h>
#include <fmt/format.h>
#include <sys/random.h>

#include <array>
#include <condition_variable>
#include <deque>
#include <string_view>
#include <thread>
#include <vector>

#include "hollow_probe/io/input_error.hpp"

namespace hollow_probe::tool {
namespace {

constexpr std::size_t most_message = std::size_t{64} << 20U;

std::string random_token() {
    std::array<unsigned char, 16> bytes{};
    if (getrandom(bytes.data(), bytes.size(), 0) != static_cast<ssize_t>(bytes.size()))
        throw InputError("live: the system gives no random numbers for the address");
    std::string token;
    for (const unsigned char byte : bytes) token += fmt::format("{:02x}", byte);
    return token;
}

std::string_view text_or_nothing(const char* text) {
    return text == nullptr ? std::string_view() : std::string_view(text);
}

/// `{"tell":"verdicts"`; nothing for answers.
std::string_view kind_of(std::string_view message) {
    return message.starts_with("{\"tell\":") ? message.substr(0, message.find(',')) : std::string_view();
}

int refuse(mg_connection* connection, int status, const char* why) {
    const std::string body = std::string(why) + "\n";
    const std::string head = fmt::format(
        "HTTP/1.1 {} {}\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Length: {}\r\n"
        "Cache-Control: no-store\r\nConnection: close\r\n\r\n",
        status,
        status == 404   ? "Not Found"
        : status == 405 ? "Method Not Allowed"
                        : "Forbidden",
        body.size());
    mg_write(connection, head.data(), head.size());
    mg_write(connection, body.data(), body.size());
    return status;
}

}  // namespace

/// One page's line. What goes out waits for a thread of its own: a page that does not listen holds up nobody.
struct LiveServer::Line {
    explicit Line(mg_connection* to) : connection(to), sender([this] { send(); }) {}
    ~Line() {
        {
            const std::lock_guard lock(mutex);
            ends = true;
        }
        wake.notify_all();
        sender.join();
    }
    Line(const Line&) = delete;
    Line& operator=(const Line&) = delete;
    Line(Line&&) = delete;
    Line& operator=(Line&&) = delete;

    void put(std::string message) {
        const std::string_view kind = kind_of(message);
        {
            const std::lock_guard lock(mutex);
            if (!kind.empty())
                std::erase_if(waiting, [&](const std::string& other) { return kind_of(other) == kind; });
            waiting.push_back(std::move(message));
        }
        wake.notify_all();
    }

    void send() {
        while (true) {
            std::string message;
            {
                std::unique_lock lock(mutex);
                wake.wait(lock, [&] { return ends || !waiting.empty(); });
                if (ends) return;
                message = std::move(waiting.front());
                waiting.pop_front();
            }
            (void)mg_websocket_write(connection, MG_WEBSOCKET_OPCODE_TEXT, message.data(), message.size());
        }
    }

    mg_connection* connection;
    std::mutex mutex;
    std::condition_variable wake;
    std::deque<std::string> waiting;
    std::string part;  // of a message that comes in several frames
    bool ends = false;
    std::thread sender;  // last: it uses all the others
};

LiveServer::LiveServer(int port, LiveService service) : service_(std::move(service)), token_(random_token()) {
    mg_init_library(MG_FEATURES_WEBSOCKET);
    mg_callbacks callbacks{};
    callbacks.begin_request = &LiveServer::begin;
    const std::string listens = fmt::format("127.0.0.1:{}", port);
    // No folder is served. A page may be silent for as long as it likes.
    std::array<const char*, 11> options = {"listening_ports",
                                           listens.c_str(),
                                           "num_threads",
                                           "40",
                                           "request_timeout_ms",
                                           "10000",
                                           "websocket_timeout_ms",
                                           "86400000",
                                           "tcp_nodelay",
                                           "1",
                                           nullptr};
    context_ = mg_start(&callbacks, this, options.data());
    mg_server_port bound{};
    if (context_ == nullptr || mg_get_server_ports(context_, 1, &bound) != 1) {
        if (context_ != nullptr) mg_stop(context_);
        mg_exit_library();
        throw InputError(fmt::format("live: cannot listen on 127.0.0.1, port {}: is it in use?", port));
    }
    port_ = bound.port;
    mg_set_websocket_handler(context_, ("/" + token_ + "/line").c_str(), &LiveServer::connect,
                             &LiveServer::ready, &LiveServer::take, &LiveServer::close, this);
}

LiveServer::~LiveServer() {
    mg_stop(context_);
    mg_exit_library();
}

std::string LiveServer::address() const {
    return fmt::format("http://127.0.0.1:{}/{}/", port_, token_);
}

void LiveServer::tell(const std::string& news) {
    const std::lock_guard lock(mutex_);
    for (const auto& [connection, line] : lines_) line->put(news);
}

bool LiveServer::is_from_here(const mg_connection* connection) const {
    const std::string host = fmt::format("127.0.0.1:{}", port_);
    const std::string_view origin = text_or_nothing(mg_get_header(connection, "Origin"));
    return text_or_nothing(mg_get_header(connection, "Host")) == host &&
           (origin.empty() || origin == "http://" + host);
}

int LiveServer::begin(mg_connection* connection) {
    const auto* const self = static_cast<const LiveServer*>(mg_get_request_info(connection)->user_data);
    return self->serve(connection);
}

int LiveServer::serve(mg_connection* connection) const {
    const mg_request_info& request = *mg_get_request_info(connection);
    if (!is_from_here(connection)) return refuse(connection, 403, "not for this host and origin");
    const std::string_view uri = text_or_nothing(request.local_uri);
    if (uri == "/" + token_ + "/line") return 0;  // becomes a WebSocket
    if (uri != "/" + token_ + "/") return refuse(connection, 404, "nothing is here");
    const std::string_view method = text_or_nothing(request.request_method);
    if (method != "GET" && method != "HEAD") return refuse(connection, 405, "only GET");
    const std::string page = service_.page();
    const std::string head = fmt::format(
        "HTTP/1.1 200 OK\r\nContent-Type: text/html; charset=utf-8\r\nContent-Length: {}\r\n"
        "Cache-Control: no-store\r\nX-Content-Type-Options: nosniff\r\nX-Frame-Options: DENY\r\n"
        "Referrer-Policy: no-referrer\r\n"
        "Content-Security-Policy: default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; "
        "img-src data: blob:; connect-src ws://127.0.0.1:{}; base-uri 'none'; form-action 'none'\r\n\r\n",
        page.size(), port_);
    mg_write(connection, head.data(), head.size());
    if (method == "GET") mg_write(connection, page.data(), page.size());
    return 200;
}

int LiveServer::connect(const mg_connection* connection, void* self) {
    return static_cast<const LiveServer*>(self)->is_from_here(connection) ? 0 : 1;
}

void LiveServer::ready(mg_connection* connection, void* self) {
    auto* const server = static_cast<LiveServer*>(self);
    auto line = std::make_shared<Line>(connection);
    const std::lock_guard lock(server->mutex_);
    server->lines_[connection] = std::move(line);
}

int LiveServer::take(mg_connection* connection, int bits, char* data, std::size_t size, void* self) {
    auto* const server = static_cast<LiveServer*>(self);
    constexpr int last_frame = 0x80;
    const int kind = bits & 0x0F;
    if (kind == MG_WEBSOCKET_OPCODE_CONNECTION_CLOSE) return 0;
    if (kind == MG_WEBSOCKET_OPCODE_PING || kind == MG_WEBSOCKET_OPCODE_PONG) return 1;
    if (kind != MG_WEBSOCKET_OPCODE_TEXT && kind != MG_WEBSOCKET_OPCODE_CONTINUATION) return 0;
    std::shared_ptr<Line> line;
    {
        const std::lock_guard lock(server->mutex_);
        const auto found = server->lines_.find(connection);
        if (found == server->lines_.end()) return 0;
        line = found->second;
    }
    if (line->part.size() + size > most_message) return 0;
    line->part.append(data, size);
    if ((bits & last_frame) == 0) return 1;
    const std::string question = std::move(line->part);
    line->part.clear();
    line->put(server->service_.answer(question));
    return 1;
}

void LiveServer::close(const mg_connection* connection, void* self) {
    auto* const server = static_cast<LiveServer*>(self);
    std::shared_ptr<Line> line;
    const std::lock_guard lock(server->mutex_);
    const auto found = server->lines_.find(connection);
    if (found == server->lines_.end()) return;
    line = std::move(found->second);
    server->lines_.erase(found);
}

}  // namespace hollow_probe::tool
