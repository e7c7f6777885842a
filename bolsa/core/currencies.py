"""The currencies people may choose: the codes of ISO 4217 (table A.1, 2024), and those replaced by the euro since 2011, which old
accounts were kept in."""

from bolsa.errors import InvalidInput

_LISTED = """
    AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CLF
    CLP CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF
    IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK
    MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR
    SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD UYI UYU UYW
    UZS VED VES VND VUV WST XAF XCD XOF XPF YER ZAR ZMW ZWG EEK LVL LTL HRK"""
CODES = frozenset(_LISTED.split())


def parse_currency(text: str, *, field: str = "currency") -> str:
    """The code of a currency as it is typed. Raises: InvalidInput for what is none.

    >>> parse_currency(" eur ")
    'EUR'
    """
    code = text.strip().upper()
    if code not in CODES:
        raise InvalidInput(f"“{text.strip()[:20]}” is no currency. Write its three letters, such as EUR.", field=field)
    return code
