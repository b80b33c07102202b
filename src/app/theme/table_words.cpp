#include "app/theme/table_words.h"

#include <QCoreApplication>

#include <string>

namespace bonemoss::app {

QString tableWords(const char *context, std::string_view words)
{
    return QCoreApplication::translate(context, std::string(words).c_str());
}

QString stepWords(std::string_view title)
{
    const std::size_t about = std::min(title.find(": "), title.size());
    return tableWords("Command", title.substr(0, about))
           + QString::fromUtf8(title.data() + about, qsizetype(title.size() - about));
}

} // namespace bonemoss::app
