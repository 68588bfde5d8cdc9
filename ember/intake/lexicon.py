"""The words of the trade in the headers of logs: what each says of a column.

Common practice in the languages of the trade. A word is matched whole where it is short, at the
beginning of a word where it is longer, and anywhere in one from six letters on, since German,
Dutch and the Nordic languages write compounds; longer words are matched first, and what they have
taken is not matched again, so that "Volumenstrom" says nothing of "Strom".
"""

import re
import unicodedata
from enum import StrEnum
from functools import cache


class Says(StrEnum):
    """What a word says of a column."""

    SUPPLY = "flow pipe"
    RETURN = "return pipe"
    OUTDOOR = "outdoors"
    ROOM = "room"
    TANK = "hot-water tank"
    BUFFER = "buffer"
    SOURCE = "source"
    AIR = "air"
    TEMPERATURE = "temperature"
    FLOW = "volume flow"
    VOLUME = "volume"
    POWER = "power"
    ENERGY = "register"
    ELECTRIC = "electric"
    HEAT = "heat"
    HEATING = "heating"
    COOLING = "cooling"
    YIELD = "environmental yield"
    HUMIDITY = "humidity"
    MODE = "mode"
    SET = "set point"
    UNIT = "heat pump"
    DEFROST = "defrost"
    COMPRESSOR = "compressor"
    FAN = "fan"
    VALVE = "valve"
    SPEED = "speed"
    HOT_GAS = "hot gas"
    SUCTION = "suction gas"
    CONDENSING = "condensing"
    EVAPORATING = "evaporating"
    PRESSURE = "pressure"
    SUPERHEAT = "superheat"
    SUBCOOLING = "subcooling"
    RADIATION = "radiation"
    HEATER = "heater"
    PUMP = "pump"
    COP = "a ratio"
    DIFFERENCE = "a difference"
    COST = "cost"
    ON = "on or off"
    CIRCUIT = "heating circuit"
    HOUSE_SUPPLY = "the house's supply"
    AMBIENT = "ambient"  # outdoors in English, the room in Spanish and Italian


# Each line: words divided by | ; several words of one entry must follow each other.
_LEXICON_WORDS: dict[Says, str] = {
    Says.SUPPLY: (
        "leaving water|water leaving|supply|flow temp|flow temperature|flow t|temp flow|t flow|lwt|"
        "fwt|vl|vlt|tvl|vorlauf|vorl|depart|dep|impulsion|ida|mandata|aanvoer|fremlob|fremloeb|"
        "framledning|turledning|tur|zasilanie|zasil|privod|menovesi|flow|outlet water|water outlet|"
        "water out|wtr out|outlet|tflow|tsup|tsupply|sup|t sup|tvorlauf|elore|elore meno|tur temp|"
        "avanco|ida de agua|saida|uscita|salida|hp out|wp aus|austritt|sortie|sortie eau|"
        "t out water"
    ),
    Says.RETURN: (
        "entering water|water entering|return|ret|rwt|ewt|rl|rlt|trl|rucklauf|ruecklauf|rueckl|"
        "ruckl|retour|retorno|ritorno|retur|powrot|zpatecka|vratna|paluuvesi|inlet water|"
        "water inlet|water in|wtr in|inlet|treturn|tret|t ret|visszatero|entrada|ingresso|hp in|"
        "wp ein|eintritt|entree|entree eau|volta"
    ),
    Says.OUTDOOR: (
        "outdoor|outside|oat|odt|out air|oa|at|aussen|aussenluft|aussentemp|ext|exterieur|"
        "exterieure|"
        "exterior|esterna|esterno|externa|buiten|ude|udetemp|udeluft|ute|utetemp|uteluft|"
        "zewnetrzna|zewn|venkovni|ulko|ulkoilma|kulso|outdoors|weather|tout|t out|tamb|text|tau|"
        "t ext|t aussen|outdoor air|outside air"
    ),
    Says.AMBIENT: "ambient|ambiente|amb|ambiance|ambiante|umgebung|omgeving",
    Says.ROOM: (
        "room|indoor|indoors|inside|living|lounge|hall|space|zone|raum|raumtemp|wohnraum|wohnzimmer|"
        "innen|innentemp|sejour|salon|piece|interieur|interieure|interior|interna|interno|int|"
        "habitacion|estancia|stanza|soggiorno|kamer|woonkamer|binnen|stue|rum|inde|inne|indetemp|"
        "pokoj|pokojowa|wewnetrzna|mistnost|sisa|huone|sisalampo|tin|trm|tint|in|thermostat|stat|"
        "t int|t room|house|bedroom|kitchen|sala|comedor|szoba"
    ),
    Says.TANK: (
        "hot water|hot water tank|hotwater|domestic hot water|dhw|dhw tank|hwc|hwt|hws|hw|cylinder|"
        "cyl|tank|store|brauchwasser|warmwasser|ww|tww|wws|speicher|trinkwasser|boiler|ecs|ballon|"
        "ballon ecs|eau chaude|acs|acumulador|deposito|agua caliente|bollitore|acqua calda|"
        "accumulo|"
        "sww|tapwater|warm water|vv|varmtvand|varmvatten|vvb|vvbereder|bereder|tappevann|cwu|"
        "zasobnik|tuv|bojler|lkv|kayttovesi|varaaja|aqs|agua quente|hmv"
    ),
    Says.BUFFER: "buffer|puffer|pufferspeicher|tampon|ballon tampon|inercia|inerziale|volano|bufor|"
                 "buffertank|ackumulator",
    Says.SOURCE: (
        "source|brine|ground loop|ground source|sole|soleeintritt|quelle|glycol|eau glycolee|"
        "captage|captador|sonda|bron|jord|brine in|koldbaerer|koldbarare|kollektor|dolne zrodlo|"
        "solanka|maalampo"
    ),
    Says.AIR: "air|airflow|luft|aire|aria|lucht|powietrze|ilma|vzduch",
    Says.TEMPERATURE: (
        "temperature|temperatur|temperatura|temp|tmp|teplota|lampotila|homerseklet|t|th1|tt|ti|te|"
        "tit|tic"
    ),
    Says.FLOW: (
        "flow rate|flowrate|volume flow|volumeflow|water flow|flow water|waterflow|volumenstrom|"
        "durchfluss|durchfl|debit|caudal|portata|debiet|doorstroming|flode|gennemstromning|volstrom|"
        "przeplyw|prutok|virtaama|vdot|v dot|vdt|vazao|primary flow|loop flow|circuit flow|hp flow|"
        "circulation flow|ft|fi|fit|fe|lpm|gpm|flow meter|flowmeter|umlauf|foramlas|secondary flow|"
        "flux|qv|v punkt|vpunkt|mass flow|flow hp|water rate"
    ),
    Says.VOLUME: (
        "volume|volumen|volum|vol|volume total|volumenzaehler|volumezahler|volumenzahler|m3 total|"
        "total flow|totalised flow|totalized flow|fq|fqi|objetosc|objem|tilavuus|volymen|volym|"
        "terfogat"
    ),
    Says.POWER: (
        "power|leistung|puissance|potencia|potenza|vermogen|effekt|effect|moc|prikon|teho|pwr|jt|ji|"
        "watts|kw|watt|leist|p|wirkleistung|puiss|demand|load|teljesitmeny|vykon|active power|"
        "capacity|aufnahme|leistungsaufnahme|output|input"
    ),
    Says.ENERGY: (
        "energy|energie|energia|meter|counter|register|reading|index|compteur|zahler|zaehler|"
        "zahlerstand|zaehlerstand|contador|contatore|teller|meterstand|maler|matare|licznik|"
        "elektromer|mittari|total|totalizer|totaliser|cumulative|cum|cumul|sum|summe|kwh|mwh|wh|"
        "consumption|consumo|verbrauch|consommation|verbruik|forbrug|forbrukning|zuzycie|spotreba|"
        "kulutus|jq|jqi|qq|qqi|bezug|lifetime|import|imp|totale|totaal|mera|produced|production|"
        "menge|arbeit|output energy|used|usage"
    ),
    Says.ELECTRIC: (
        "electric|electrical|electricity|elec|elect|el|strom|stromzahler|stromzaehler|elektro|"
        "elektrisch|elektrische|elektrizitat|electrique|electricite|electrico|electrica|"
        "electricidad|elettrico|elettrica|elettricita|elektriciteit|elektra|elforbrug|elmaler|"
        "energia elettrica|pel|p el|wel|eel|e el|pelec|pelek|elmatare|prad|elektryczna|sahko|mains|"
        "grid|ac|netz|aramfogyasztas|villamos|eletrica"
    ),
    Says.HEAT: (
        "heat meter|heat energy|heat register|heat output|heat power|heat produced|heatmeter|"
        "heat quantity|heat|btu meter|btu|thermal|thermisch|thermique|termico|termica|warme|waerme|"
        "warmemenge|waermemenge|warmemengenzahler|waermemengenzaehler|wmz|wmzahler|chaleur|calor|"
        "calorie|calore|calorias|warmte|varme|fjernvarme|cieplo|teplo|lampo|qth|q th|pth|p th|eth|"
        "qdot|q dot|hm|ht mtr|energiemeter warmte|kalorimetr|calorimetre|calorimetro|hofok|"
        "hoenergia|hoteljesitmeny|qhp|q wp|calorico|calorifique"
    ),
    Says.HEATING: "heating|heizung|heizen|heizbetrieb|chauffage|calefaccion|riscaldamento|"
                  "verwarming|opvarmning|uppvarmning|ogrzewanie|vytapeni|lammitys|sh|ch|hz|futes",
    Says.COOLING: "cooling|kuhlung|kuehlung|kuhlen|refroidissement|froid|refrigeracion|"
                  "raffrescamento|koeling|koling|kyla|chlodzenie|kalte|kaelte|cool",
    Says.YIELD: "environmental yield|environmental energy|umweltertrag|umweltenergie|umweltwarme|"
                "source yield|source energy|environment|ambient energy|ertrag|energie gratuite|"
                "ambient heat|renewable",
    Says.HUMIDITY: "relative humidity|humidity|feuchte|feuchtigkeit|luftfeuchte|rh|humidite|"
                   "hygrometrie|humedad|umidita|umidade|vochtigheid|fugtighed|luftfuktighet|"
                   "wilgotnosc|vlhkost|kosteus|hum|mt|rf|rel feuchte|paratartalom",
    Says.MODE: (
        "mode|operating mode|betriebsart|betriebszustand|betriebsmodus|modus|status|state|zustand|"
        "modo|estado|etat|regime|fonctionnement|stato|bedrijfsmodus|driftsform|tryb|rezim|drift|"
        "operation|activity|uzemmod|toimintatila|driftlage|driftslage"
    ),
    Says.SET: (
        "setpoint|set point|sp|target|desired|soll|sollwert|consigne|consigna|setpunt|gewenst|"
        "borvarde|setpunkt|zadana|zadane|zadana temperatura|pozadovana|asetus|requested|demanded|"
        "wunsch|limit|max|min|alarm|impostata|celjel"
    ),
    Says.UNIT: (
        "heat pump|heatpump|hp|wp|warmepumpe|waermepumpe|pac|pompe a chaleur|bomba de calor|bdc|"
        "pompa di calore|pdc|pompa calore|warmtepomp|varmepumpe|varmepump|pompa ciepla|ashp|gshp|"
        "tepelne cerpadlo|lampopumppu|unit|odu|outdoor unit|aussengerat|aussengeraet|hoszivattyu"
    ),
    Says.DEFROST: "defrost|defrosting|abtau|abtauung|abtauen|degivrage|desescarche|sbrinamento|"
                  "ontdooi|ontdooien|afrimning|avfrostning|odszranianie|odmrazovani|sulatus",
    Says.COMPRESSOR: "compressor|kompressor|verdichter|compresseur|compresor|compressore|"
                     "kompresor|sprezarka|comp|inverter|kompressori",
    Says.FAN: "fan|ventilator|ventilateur|ventilador|ventilatore|lufter|luefter|blaeser|flakt",
    Says.VALVE: "valve|ventil|vanne|valvula|valvola|expansion|eev|exv|3wv|umschaltventil|klep|"
                "diverter|zawor",
    Says.SPEED: "speed|frequency|freq|drehzahl|frequenz|rpm|hz|vitesse|frecuencia|frequence|"
                "frequenza|velocidad",
    Says.HOT_GAS: "hot gas|discharge gas|discharge temp|discharge temperature|heissgas|gaz chaud|"
                  "refoulement|discharge",
    Says.SUCTION: "suction gas|suction temp|suction|sauggas|aspiration",
    Says.CONDENSING: "condensing|condenser|high pressure|hochdruck|condensation|hp press",
    Says.EVAPORATING: "evaporating|evaporator|low pressure|niederdruck|evaporation|verdampfer",
    Says.PRESSURE: "pressure|druck|pression|presion|pressione|druk|tryk|tryck|cisnienie|tlak|pt",
    Says.SUPERHEAT: "superheat|uberhitzung|ueberhitzung|surchauffe",
    Says.SUBCOOLING: "subcooling|sub cooling|unterkuhlung|unterkuehlung|sous refroidissement",
    Says.RADIATION: "solar radiation|global radiation|radiation|irradiance|global horizontal|ghi|"
                    "strahlung|globalstrahlung|rayonnement|radiacion|solar",
    Says.HOUSE_SUPPLY: "photovoltaic|photovoltaik|photovoltaique|fotovoltaic|pv|solar power|"
                       "power solar|solar energy|energy solar|solar production|solar inverter|grid|"
                       "grid power|grid import|grid export|netzbezug|einspeisung|feed in|battery|"
                       "batterie|batteria|bateria|battery power|akku|house load|home load|"
                       "hausverbrauch|household|self consumption|eigenverbrauch|reseau",
    Says.HEATER: "backup|booster|immersion|heater|heizstab|zuheizer|e heizstab|appoint|resistance|"
                 "resistencia|resistenza|elpatron|elkassett|rod heater|back up|grzalka|element|"
                 "aux heat|auxiliary|tillskott|tilskud|bijverwarming|elstav",
    Says.PUMP: "pump|pumpe|pompe|circulateur|bomba|pompa|pomp|circulator|umwalzpumpe|cirkulation",
    Says.COP: "cop|jaz|spf|scop|eer|efficiency|arbeitszahl|rendement",
    Says.DIFFERENCE: "delta t|delta|dt|spreizung|difference|spread|diff|dtemp|deltat",
    Says.COST: "cost|price|kosten|preis|cout|prix|coste|precio|co2",
    Says.ON: "on|active|running|enabled|an|ein|marche|enable|flag",
    Says.CIRCUIT: "heating circuit|heizkreis|hk|hk1|hk2|mixer|mischer|secondary|"
                  "circuit de chauffage|"
                  "radiators|underfloor|ufh|zone 2|sekundar|secondaire|secundario|emitter",
}  # fmt: skip

# Letters of an instrument's tag before its number (ISA-5.1, from memory).
TAGS = {
    "tt": Says.TEMPERATURE, "ti": Says.TEMPERATURE, "te": Says.TEMPERATURE, "tic": Says.TEMPERATURE,
    "tit": Says.TEMPERATURE, "ft": Says.FLOW, "fi": Says.FLOW, "fit": Says.FLOW, "fe": Says.FLOW,
    "fq": Says.VOLUME, "fqi": Says.VOLUME, "fqt": Says.VOLUME, "jt": Says.POWER, "ji": Says.POWER,
    "jit": Says.POWER, "jq": Says.ENERGY, "jqi": Says.ENERGY, "eq": Says.ENERGY,
    "qq": Says.ENERGY, "qqi": Says.ENERGY, "uq": Says.ENERGY, "mt": Says.HUMIDITY,
    "mi": Says.HUMIDITY, "mit": Says.HUMIDITY, "pt": Says.PRESSURE, "pi": Says.PRESSURE,
    "st": Says.SPEED, "si": Says.SPEED,
}  # fmt: skip
# Single letters and short words that are words of the trade only as tags or with others.
_WEAK = {"t", "p", "in", "at", "a", "v", "int", "ext", "an", "ein", "ac", "on", "el", "min",
         "max", "store", "dep", "ida", "tur", "zone", "hall", "space", "out", "imp", "used", "sum",
         "load", "input", "output", "house", "rum", "inde", "ude", "ute", "capacity",
         "limit"}  # fmt: skip

_TAG = re.compile(r"^([a-z]{2,3})[-_ ]?(\d{2,5}[a-z]?)$")
ANYWHERE = 6  # letters from which a word is found within another
BEGINS = 4  # letters from which it is found at the beginning of one


def folded(text: str) -> str:
    """A header as words: without accents, in lower case, divided at signs and case changes."""
    text = re.sub(r"(?<=[a-z]{2})(?=[A-Z])", " ", text)
    text = text.replace("ß", "ss").replace("ø", "o").replace("Ø", "o").replace("ł", "l")
    text = text.replace("Ł", "l").replace("æ", "ae").replace("Δ", " delta ").replace("̇", "")
    plain = unicodedata.normalize("NFKD", text)
    plain = "".join(c for c in plain if not unicodedata.combining(c)).lower()
    return " ".join(re.findall(r"[a-z]+\d*|\d+|[^\x00-\x7f]+", plain))


@cache
def _entries() -> tuple[tuple[str, Says, re.Pattern[str]], ...]:
    """Every word with its pattern, longest first."""
    found = []
    for says, words in _LEXICON_WORDS.items():
        for word in dict.fromkeys(words.split("|")):
            text = re.escape(word)
            if " " in word or len(word) < BEGINS:
                pattern = rf"(?<![a-z]){text}(?![a-z])"
            elif len(word) < ANYWHERE:
                pattern = rf"(?<![a-z]){text}"
            else:
                pattern = text
            found.append((word, says, re.compile(pattern)))
    found.sort(key=lambda entry: -len(entry[0]))
    return tuple(found)


@cache
def concepts(header: str) -> dict[Says, str]:
    """What a header says, and by which word, the longest words first."""
    text = folded(header)
    said: dict[Says, str] = {}
    for token in re.findall(r"[a-z]{2,3} ?\d{2,5}\b", text):
        tag = _TAG.match(token)
        if tag and tag[1] in TAGS:
            said.setdefault(TAGS[tag[1]], f"{tag[1].upper()} tag")
            text = text.replace(token, "·", 1)
    for word, says, pattern in _entries():
        match = pattern.search(text)
        if match is None:
            continue
        text = text[: match.start()] + "·" * (match.end() - match.start()) + text[match.end() :]
        said.setdefault(says, word)
    return said


def weak(word: str) -> bool:
    """Whether a word says little by itself."""
    return word in _WEAK or len(word) < 2
